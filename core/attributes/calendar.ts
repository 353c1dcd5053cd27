/** A day of 24 hours, in milliseconds. */
export const dayLength = 86_400_000;

/**
 * The number of days from 1970-01-01 to an ISO 8601 calendar date, or undefined where the text is no such date
 * (`2026-02-30`, `29/11/2026`). Years from 0100 to 9999.
 *
 * @example dayNumber('1970-01-02') // 1
 */
export function dayNumber(date: string): number | undefined {
  if (date.length !== 10 || date[4] !== '-' || date[7] !== '-') return undefined;
  const year = digits(date, 0, 4);
  const month = digits(date, 5, 7);
  const day = digits(date, 8, 10);
  if (!(year >= 100 && month >= 1 && month <= 12 && day >= 1 && day <= daysIn(year, month))) return undefined;
  // Years counted from March, so that a leap day is the last of its year.
  const shifted = month > 2 ? year : year - 1;
  const era = Math.floor(shifted / 400);
  const yearOfEra = shifted - era * 400;
  const dayOfYear = Math.floor((153 * (month > 2 ? month - 3 : month + 9) + 2) / 5) + day - 1;
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  return era * 146_097 + dayOfEra - 719_468;
}

/** The number that some characters spell; NaN where one is no digit. */
function digits(text: string, from: number, to: number): number {
  let number = 0;
  for (let at = from; at < to; at++) {
    const digit = text.charCodeAt(at) - 48;
    if (digit < 0 || digit > 9) return Number.NaN;
    number = number * 10 + digit;
  }
  return number;
}

function daysIn(year: number, month: number): number {
  if (month === 2) return (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0 ? 29 : 28;
  return month === 4 || month === 6 || month === 9 || month === 11 ? 30 : 31;
}

/** The ISO 8601 calendar date of a day number; the inverse of {@link dayNumber}. */
export function isoDate(day: number): string {
  return new Date(day * dayLength).toISOString().slice(0, 10);
}

const formats = new Map<string, Intl.DateTimeFormat>();
const quarterLength = 900_000;
/** Offsets by quarter hour, of the zone asked last. */
const offsets = new Map<number, number>();
let offsetsOf: string | undefined;
const mostOffsets = 50_000;

/**
 * How far local clocks are ahead of UTC at an instant, in milliseconds. Throws RangeError for a zone that Intl does
 * not know and for an instant outside the calendar.
 */
export function zoneOffset(instant: number, zone: string): number {
  // All zones in use change their offset on quarter hours, so a quarter hour has one offset.
  const quarter = Math.floor(instant / quarterLength);
  if (offsetsOf !== zone || offsets.size > mostOffsets) {
    offsets.clear();
    offsetsOf = zone;
  }
  const known = offsets.get(quarter);
  if (known !== undefined) return known;
  let format = formats.get(zone);
  if (!format) {
    const two = '2-digit';
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone: zone,
      hourCycle: 'h23',
      era: 'short',
      year: 'numeric',
      month: two,
      day: two,
      hour: two,
      minute: two,
      second: two,
    });
    formats.set(zone, format);
  }
  const start = quarter * quarterLength;
  const parts: { [type: string]: string } = {};
  for (const { type, value } of format.formatToParts(start)) parts[type] = value;
  const year = parts.era === 'BC' ? 1 - Number(parts.year) : Number(parts.year);
  const local = new Date(0);
  local.setUTCFullYear(year, Number(parts.month) - 1, Number(parts.day));
  local.setUTCHours(Number(parts.hour), Number(parts.minute), Number(parts.second));
  const offset = local.getTime() - start;
  offsets.set(quarter, offset);
  return offset;
}

/** What local clocks and calendars show. */
export interface LocalTime {
  /** Day number, see {@link dayNumber}. */
  readonly day: number;
  /** Minutes since midnight, 0 to 1439. */
  readonly minute: number;
}

/** What clocks show at an instant (milliseconds since 1970 UTC) in an IANA time zone. */
export function localTime(instant: number, zone: string): LocalTime {
  const local = instant + zoneOffset(instant, zone);
  const day = Math.floor(local / dayLength);
  return { day, minute: Math.floor((local - day * dayLength) / 60_000) };
}

/** The local calendar day of an instant, as a day number. */
export function localDay(instant: number, zone: string): number {
  return localTime(instant, zone).day;
}

/**
 * The instant when local clocks show a day and minute. Where they show it twice, the first; where they skip it, the
 * same stretch of time after midnight as if they had not been put forward (RFC 5545, 3.3.5).
 */
export function instantOf({ day, minute }: LocalTime, zone: string): number {
  const local = day * dayLength + minute * 60_000;
  const before = local - zoneOffset(local - dayLength, zone);
  const after = local - zoneOffset(local + dayLength, zone);
  if (before + zoneOffset(before, zone) === local) return before;
  return after + zoneOffset(after, zone) === local ? after : before;
}

/** A local date and time (`2026-11-29T18:30`) as day and minute, or undefined where the text is none. */
export function readLocalTime(text: string): LocalTime | undefined {
  const day = dayNumber(text.slice(0, 10));
  const minute = minuteOfDay(text.slice(11));
  return text[10] === 'T' && day !== undefined && minute !== undefined ? { day, minute } : undefined;
}

/** Minutes since midnight of a time of day (`18:30`), or undefined where the text is none. */
export function minuteOfDay(text: string): number | undefined {
  if (text.length !== 5 || text[2] !== ':') return undefined;
  const [hour, minute] = [digits(text, 0, 2), digits(text, 3, 5)];
  return hour <= 23 && minute <= 59 ? 60 * hour + minute : undefined;
}

/** `18:30` for 1110. */
export function timeText(minute: number): string {
  const two = (number: number) => String(number).padStart(2, '0');
  return `${two(Math.floor(minute / 60))}:${two(minute % 60)}`;
}

/** The instant of `2026-11-29T18:00:00.000Z`, in just that form, or undefined where the text is none. */
export function readInstant(text: string): number | undefined {
  if (text.length !== 24 || !text.endsWith('Z') || dayNumber(text.slice(0, 10)) === undefined)
    return undefined;
  const instant = Date.parse(text);
  return Number.isNaN(instant) || new Date(instant).toISOString() !== text ? undefined : instant;
}

export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

/** The month of a day number, 1 to 12. */
export function monthOf(day: number): number {
  return new Date(day * dayLength).getUTCMonth() + 1;
}
