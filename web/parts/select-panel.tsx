import { Check, ChevronDown } from 'lucide-react';
import { Select } from 'radix-ui';
import { Fragment } from 'react';

export interface SelectOption<Value extends string = string> {
  readonly value: Value;
  readonly label: string;
  readonly group?: string;
}

/** What names a choice: a label of its own, or the id that a label on screen refers to. */
export interface Named {
  'aria-label'?: string;
  'aria-describedby'?: string;
  'aria-invalid'?: boolean;
  id?: string;
}

export interface ShownSelect<Value extends string> extends Named {
  options: readonly SelectOption<Value>[];
  value: Value;
  said: string;
  onChange: (value: Value) => void;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  className: string;
}

// Radix keeps the empty text for "nothing chosen", which some options here are.
const marked = (value: string) => `=${value}`;

/** A choice of few things as a list over the screen; the usual keys move in it, letters find an option. */
export function SelectPanel<Value extends string>({
  options,
  value,
  said,
  onChange,
  open,
  onOpenChange,
  className,
  ...named
}: ShownSelect<Value>) {
  return (
    <Select.Root
      value={marked(value)}
      onValueChange={(chosen) => {
        const option = options.find((one) => marked(one.value) === chosen);
        if (option) onChange(option.value);
      }}
      open={open}
      onOpenChange={onOpenChange}
    >
      <Select.Trigger {...named} className={className}>
        <span className="min-w-0 truncate">{said}</span>
        <ChevronDown size={14} className="shrink-0 text-quiet" aria-hidden />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 max-h-[min(22rem,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] max-w-[min(28rem,94vw)] overflow-hidden rounded-md border border-line bg-paper p-1 text-[14px] font-normal text-ink shadow-soft"
        >
          <Select.Viewport>
            {groupsOf(options).map(([group, members]) => (
              <Fragment key={group ?? ''}>
                <Select.Group>
                  {group !== undefined && (
                    <Select.Label className="px-2 pt-1.5 text-[12px] text-quiet">{group}</Select.Label>
                  )}
                  {members.map((option) => (
                    <Select.Item
                      key={option.value}
                      value={marked(option.value)}
                      className="flex cursor-pointer items-center gap-2 rounded-md px-2 py-1.5 outline-none data-[highlighted]:bg-linen data-[highlighted]:shadow-[inset_0_0_0_1px_var(--edge)]"
                    >
                      <span className="min-w-0 flex-1 truncate first-letter:uppercase">
                        <Select.ItemText>{option.label}</Select.ItemText>
                      </span>
                      <Select.ItemIndicator>
                        <Check size={14} aria-hidden />
                      </Select.ItemIndicator>
                    </Select.Item>
                  ))}
                </Select.Group>
              </Fragment>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

/** Options by their groups, in the order in which these come first. */
function groupsOf<Value extends string>(
  options: readonly SelectOption<Value>[],
): [string | undefined, SelectOption<Value>[]][] {
  const groups = new Map<string | undefined, SelectOption<Value>[]>();
  for (const option of options) groups.set(option.group, [...(groups.get(option.group) ?? []), option]);
  return [...groups];
}
