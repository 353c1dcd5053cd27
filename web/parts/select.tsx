import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { late, useLate } from './late.ts';
import { PickList } from './pick-list.tsx';
import { Popover } from './popover.tsx';
import type { Named, SelectOption } from './select-panel.tsx';

interface SelectProps<Value extends string> extends Named {
  options: readonly SelectOption<Value>[];
  value: NoInfer<Value>;
  onChange: (value: Value) => void;
  /** Said where the value is none of the options. */
  placeholder?: string;
  className?: string;
  /** Whether it begins open, as where it takes the place of what was pressed. */
  startsOpen?: boolean;
  /** Called when the list closes, whether or not something was chosen. */
  onClose?: () => void;
}

/** More options than this are searched in. */
const mostInView = 12;

const panel = late(async () => (await import('./select-panel.tsx')).SelectPanel);
const looks = {
  box: '[&>:first-child]:first-letter:uppercase inline-flex items-center justify-between gap-2 rounded-md border border-edge/60 bg-paper px-2.5 text-left hover:border-edge aria-invalid:border-apple',
  words: 'inline-flex items-center gap-1 rounded-md text-left hover:bg-line/40',
};

/**
 * A choice of one among several things: shows what is chosen, and opens a list. A long list can be searched.
 *
 * @param look `words` stands within a sentence
 */
export function Select<Value extends string>({
  options,
  value,
  onChange,
  placeholder = '',
  className = '',
  look = 'box',
  startsOpen = false,
  onClose,
  ...named
}: SelectProps<Value> & { look?: keyof typeof looks }) {
  const [open, setOpen] = useState(startsOpen);
  const isLong = options.length > mostInView;
  const Panel = useLate(panel, open && !isLong);
  const said = options.find((option) => option.value === value)?.label ?? placeholder;
  const change = (next: boolean) => {
    setOpen(next);
    if (!next) onClose?.();
  };
  const classes = `${looks[look]} ${/\bh-/.test(className) || look === 'words' ? '' : 'h-9'} ${className}`;
  if (Panel && !isLong)
    return (
      <Panel
        {...named}
        options={options}
        value={value}
        said={said}
        onChange={(chosen) => chosen !== value && onChange(chosen)}
        open={open}
        onOpenChange={change}
        className={classes}
      />
    );
  const trigger = (
    <button
      {...named}
      type="button"
      role="combobox"
      aria-expanded={open}
      className={classes}
      {...(!isLong && { onClick: () => change(!open), onKeyDown: openByArrow(() => change(true)) })}
    >
      <span className="min-w-0 truncate">{said}</span>
      <ChevronDown size={14} className="shrink-0 text-quiet" aria-hidden />
    </button>
  );
  if (!isLong) return trigger;
  return (
    <Popover
      label={named['aria-label'] ?? 'Options'}
      className="w-[280px] p-2"
      open={open}
      onOpenChange={change}
      trigger={trigger}
    >
      <PickList
        label="Search"
        chosen={value}
        groups={[...new Set(options.map(({ group }) => group))].map((group) => ({
          heading: group ?? '',
          options: options
            .filter((option) => option.group === group)
            .map((option) => ({ id: option.value, label: option.label })),
        }))}
        onChoose={(chosen) => {
          const option = options.find((one) => one.value === chosen);
          change(false);
          if (option && option.value !== value) onChange(option.value);
        }}
      />
    </Popover>
  );
}

function openByArrow(open: () => void) {
  return (event: React.KeyboardEvent) => {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    open();
  };
}
