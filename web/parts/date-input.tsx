import { CalendarDays } from 'lucide-react';
import { type InputHTMLAttributes, useEffect, useState } from 'react';
import { dateFormat } from '../../core/attributes/formatters.ts';
import { IconButton } from './button.tsx';
import { Field } from './field.tsx';
import { late, useLate } from './late.ts';
import { Popover } from './popover.tsx';

const dateParts = late(() => import('./date-parts.tsx'));
const dayLength = 'yyyy-mm-dd'.length;

interface DateInputProps
  extends Omit<InputHTMLAttributes<HTMLInputElement>, 'value' | 'onChange' | 'onBlur' | 'type'> {
  /** ISO 8601 without an offset: a day, or with `withTime` a day and a time of day; empty for none. */
  value: string;
  withTime?: boolean;
  /** Where the calendar is: behind a button, or below the field all the time. */
  calendar?: 'button' | 'below';
  /** Called with what was typed or chosen, once it can be read; with an empty string once there is nothing. */
  onChange: (value: string) => void;
  /** Called once neither the field nor the calendar is used any more. */
  onLeave?: () => void;
}

/** A day as people write it, such as “24 Nov 2026”, with the time of day where it has one. */
export function sayDay(value: string): string {
  const day = new Date(`${value.slice(0, dayLength)}T00:00:00Z`);
  if (value === '' || Number.isNaN(day.getTime())) return value;
  const date = dateFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
  const time = value.slice(dayLength + 1, dayLength + 6);
  return date.format(day) + (time === '' ? '' : `, ${time}`);
}

/** A day, or a moment, that is typed or chosen from a calendar. What can't be read stays on screen with the reason. */
export function DateInput({
  value,
  withTime = false,
  calendar = 'button',
  onChange,
  onLeave,
  className = '',
  ...rest
}: DateInputProps) {
  const parts = useLate(dateParts, true);
  const [typed, setTyped] = useState<string>();
  const [seen, setSeen] = useState(value);
  const [open, setOpen] = useState(false);
  if (value !== seen) {
    setSeen(value);
    setTyped(undefined);
  }
  const readOf = (text: string): string | undefined => {
    if (text.trim() === '') return '';
    return withTime ? parts?.readMoment(text) : parts?.readDay(text);
  };
  const take = (next: string | undefined) => {
    if (next === undefined || next === value) return;
    setSeen(next);
    onChange(next);
  };
  // What was typed before it could be read.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when it can be
  useEffect(() => {
    if (typed !== undefined) take(readOf(typed));
  }, [parts]);
  const isBad = typed !== undefined && parts !== undefined && readOf(typed) === undefined;
  const example = withTime ? '24 Nov 2026, 18:00' : '24 Nov 2026';
  const choose = (day: string) => {
    setTyped(undefined);
    take(withTime ? `${day}T${value.slice(dayLength + 1) || '00:00'}` : day);
    setOpen(false);
  };
  const month = parts && <parts.Calendar key={value.slice(0, dayLength)} value={value} onChoose={choose} />;
  return (
    <span className="flex flex-col">
      <span className="flex items-center gap-1">
        <input
          {...rest}
          type="text"
          autoComplete="off"
          placeholder={example}
          aria-invalid={isBad || undefined}
          value={typed ?? sayDay(value)}
          onChange={({ target }) => {
            setTyped(target.value);
            take(readOf(target.value));
          }}
          onBlur={() => {
            if (!isBad && parts) setTyped(undefined);
            if (!open) onLeave?.();
          }}
          className={`h-9 min-w-0 rounded-md border border-edge/60 bg-paper px-2 aria-invalid:border-apple ${className}`}
        />
        {calendar === 'button' && (
          <Popover
            label="Calendar"
            className="p-3"
            open={open}
            onOpenChange={setOpen}
            {...(onLeave && { onClosed: onLeave })}
            trigger={
              // The field is not left by pressing this.
              <IconButton label="Choose from a calendar" onPointerDown={(event) => event.preventDefault()}>
                <CalendarDays size={16} />
              </IconButton>
            }
          >
            {month}
          </Popover>
        )}
      </span>
      {isBad && (
        <span role="alert" className="text-apple">
          Write it like {example}.
        </span>
      )}
      {calendar === 'below' && <span className="mt-2 block min-h-72">{month}</span>}
    </span>
  );
}

/** A labelled day or moment. */
export function DateField({
  label,
  problem,
  hint,
  ...rest
}: DateInputProps & { label: string; problem?: string | undefined; hint?: string }) {
  return (
    <Field label={label} problem={problem} {...(hint !== undefined && { hint })}>
      {({ id, 'aria-describedby': description }) => (
        <DateInput
          id={id}
          aria-describedby={description}
          {...rest}
          className={`w-full ${rest.className ?? ''}`}
        />
      )}
    </Field>
  );
}
