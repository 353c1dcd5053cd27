import { format, isValid, parse } from 'date-fns';
import { DayPicker } from 'react-day-picker';
import 'react-day-picker/style.css';
import './date-parts.css';

const isoDay = 'yyyy-MM-dd';
/** The ways in which people write a day that are clear without knowing their country. */
const written = [isoDay, 'd MMM yyyy', 'd MMMM yyyy', 'MMM d yyyy', 'MMMM d yyyy', 'd.M.yyyy'];
const firstYear = 1000;

/** A day as it was typed, as an ISO 8601 date; undefined where it can't be read. */
export function readDay(typed: string): string | undefined {
  const text = typed.replaceAll(',', ' ').replace(/\s+/g, ' ').trim();
  for (const pattern of written) {
    const day = parse(text, pattern, new Date(2000, 0, 1));
    if (isValid(day) && day.getFullYear() >= firstYear) return format(day, isoDay);
  }
  return undefined;
}

/** A day and a time of day as they were typed, as ISO 8601 without an offset; a day alone is its midnight. */
export function readMoment(typed: string): string | undefined {
  const [, day = '', time] = /^(.*?)(?:(?:[,\sT]|\bat\b)+(\d{1,2}:\d{2}))?$/i.exec(typed.trim()) ?? [];
  const read = readDay(day);
  if (read === undefined) return undefined;
  const [hours = 0, minutes = 0] = (time ?? '00:00').split(':').map(Number);
  return hours < 24 && minutes < 60
    ? `${read}T${String(hours).padStart(2, '0')}:${String(minutes).padStart(2, '0')}`
    : undefined;
}

/**
 * A month to choose a day from.
 *
 * @param value ISO 8601 without an offset, with a time of day where there is one; empty for none
 */
export function Calendar({ value, onChoose }: { value: string; onChoose: (day: string) => void }) {
  const day = value === '' ? undefined : parse(value.slice(0, isoDay.length), isoDay, new Date(2000, 0, 1));
  const shown = day && isValid(day) ? day : undefined;
  return (
    <DayPicker
      mode="single"
      required
      weekStartsOn={1}
      captionLayout="dropdown"
      startMonth={new Date(1900, 0)}
      endMonth={new Date(2100, 11)}
      defaultMonth={shown ?? new Date()}
      selected={shown}
      onSelect={(chosen) => onChoose(format(chosen, isoDay))}
    />
  );
}
