import { DateTime } from 'luxon';

/** An instant (milliseconds since 1970 UTC) as the value of a datetime-local field, in a zone's local time. */
export function localInput(instant: number, zone: string): string {
  return DateTime.fromMillis(instant, { zone }).toFormat("yyyy-MM-dd'T'HH:mm");
}

/** The instant of a datetime-local value in a zone; undefined for an incomplete value. */
export function instantOf(value: string, zone: string): number | undefined {
  const time = DateTime.fromISO(value, { zone });
  return time.isValid ? time.toMillis() : undefined;
}

export function momentLabel(instant: number, zone: string): string {
  return DateTime.fromMillis(instant, { zone }).toFormat('ccc d LLL, HH:mm');
}

/** A stored instant as people say it: today by the hour, earlier by the date. */
export function saidInstant(iso: string): string {
  const time = DateTime.fromISO(iso);
  const now = DateTime.now();
  if (time.hasSame(now, 'day')) return `today ${time.toFormat('HH:mm')}`;
  return time.toFormat(time.hasSame(now, 'year') ? 'd LLL, HH:mm' : 'd LLL yyyy');
}
