import {
  instantOf as instantOfLocal,
  isoDate,
  localTime,
  readLocalTime,
  timeText,
} from '../../core/attributes/calendar.ts';
import { dateFormat } from '../../core/attributes/formatters.ts';

/** An instant (milliseconds since 1970 UTC) as the value of a datetime-local field, in a zone's local time. */
export function localInput(instant: number, zone: string): string {
  const { day, minute } = localTime(instant, zone);
  return `${isoDate(day)}T${timeText(minute)}`;
}

/** The instant of a datetime-local value in a zone; undefined for an incomplete value. */
export function instantOf(value: string, zone: string): number | undefined {
  const local = readLocalTime(value);
  return local && instantOfLocal(local, zone);
}

export function momentLabel(instant: number, zone: string): string {
  const say = (options: Intl.DateTimeFormatOptions) =>
    dateFormat('en-GB', { ...options, timeZone: zone }).format(instant);
  const time = say({ hour: '2-digit', minute: '2-digit', hourCycle: 'h23' });
  return `${say({ weekday: 'short' })} ${say({ day: 'numeric', month: 'short' })}, ${time}`;
}

/** A stored instant as people say it: today by the hour, earlier by the date. */
export function saidInstant(iso: string): string {
  const [time, now] = [new Date(iso), new Date()];
  const say = (options: Intl.DateTimeFormatOptions) => dateFormat('en-GB', options).format(time);
  const hour = say({ hour: '2-digit', minute: '2-digit', hourCycle: 'h23' });
  if (time.toDateString() === now.toDateString()) return `today ${hour}`;
  if (time.getFullYear() !== now.getFullYear())
    return say({ day: 'numeric', month: 'short', year: 'numeric' });
  return `${say({ day: 'numeric', month: 'short' })}, ${hour}`;
}
