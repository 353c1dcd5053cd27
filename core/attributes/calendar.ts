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

/** The weekday of a day number, 0 for Monday to 6 for Sunday (1970-01-01, day 0, was a Thursday). */
export function weekdayOf(day: number): number {
  return (((day + 3) % 7) + 7) % 7;
}

/** Year, month (1 to 12) and day of the month of a day number, in the proleptic Gregorian calendar. */
export function calendarDate(day: number): { year: number; month: number; date: number } {
  // Days counted from 0000-03-01, so that a leap day is the last of its year; the inverse of dayNumber.
  const shifted = day + 719_468;
  const era = Math.floor(shifted / 146_097);
  const dayOfEra = shifted - era * 146_097;
  const yearOfEra = Math.floor(
    (dayOfEra -
      Math.floor(dayOfEra / 1460) +
      Math.floor(dayOfEra / 36_524) -
      Math.floor(dayOfEra / 146_096)) /
      365,
  );
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const shiftedMonth = Math.floor((5 * dayOfYear + 2) / 153);
  const month = shiftedMonth < 10 ? shiftedMonth + 3 : shiftedMonth - 9;
  return {
    year: era * 400 + yearOfEra + (month <= 2 ? 1 : 0),
    month,
    date: dayOfYear - Math.floor((153 * shiftedMonth + 2) / 5) + 1,
  };
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** How far local clocks are ahead of UTC, as Intl has it from the IANA time zone database. */
function offsetByIntl(instant: number, zone: string): number {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-US', {
      timeZone: zone,
      timeZoneName: 'longOffset',
      hour: 'numeric',
    });
    formats.set(zone, format);
  }
  // "9 AM GMT+01:00", "9 AM GMT-00:01:15" before standard time, "9 AM GMT" for none.
  const [, sign = '+', hours = '0', minutes = '0', seconds = '0'] =
    /GMT(?:([+-])(\d\d):(\d\d)(?::(\d\d))?)?$/.exec(format.format(instant)) ?? [];
  const offset = 1000 * (3600 * Number(hours) + 60 * Number(minutes) + Number(seconds));
  return sign === '-' ? -offset : offset;
}

/** Stretches of a year, each with the offset of a zone from its start on; the first starts with the year. */
export type Offsets = readonly { readonly from: number; readonly offset: number }[];

const offsetsByZone = new Map<string, Map<number, Offsets>>();
/** No zone changes its offset twice within this time and ends up where it was. */
const offsetStep = 20 * dayLength;

/** The offsets of a zone in a year of UTC, found by comparing some of them and halving where they differ; remembered. */
export function offsetsOfYear(year: number, zone: string): Offsets {
  let years = offsetsByZone.get(zone);
  if (!years) {
    years = new Map();
    offsetsByZone.set(zone, years);
  }
  let offsets = years.get(year);
  if (!offsets) {
    offsets = findOffsets(
      new Date(0).setUTCFullYear(year, 0, 1),
      new Date(0).setUTCFullYear(year + 1, 0, 1),
      zone,
    );
    years.set(year, offsets);
  }
  return offsets;
}

function findOffsets(start: number, end: number, zone: string): Offsets {
  const found = [{ from: start, offset: offsetByIntl(start, zone) }];
  for (let from = start; from < end; from += offsetStep) {
    // The last instant of the year, so that a change at its very end belongs to the next.
    let [low, high] = [from, Math.min(from + offsetStep, end - 1)];
    const [before, after] = [offsetByIntl(low, zone), offsetByIntl(high, zone)];
    if (before === after) continue;
    while (high - low > 1000) {
      const middle = Math.max(low + 1, Math.floor((low + high) / 2000) * 1000);
      if (offsetByIntl(middle, zone) === before) low = middle;
      else high = middle;
    }
    // Changes happen on whole seconds.
    found.push({ from: Math.ceil(low / 1000) * 1000 + (low % 1000 === 0 ? 1000 : 0), offset: after });
  }
  return found;
}

/** The stretch of a year that was asked about last; most questions are about the same day. */
let last = { zone: '', from: 0, to: 0, offset: 0 };

/**
 * How far local clocks are ahead of UTC at an instant, in milliseconds. Throws RangeError for a zone that Intl does
 * not know and for an instant outside the calendar.
 */
export function zoneOffset(instant: number, zone: string): number {
  if (instant < last.from || instant >= last.to || zone !== last.zone) last = stretchOf(instant, zone);
  return last.offset;
}

function stretchOf(instant: number, zone: string): typeof last {
  const year = new Date(instant).getUTCFullYear();
  const offsets = offsetsOfYear(year, zone);
  const index = offsets.findLastIndex(({ from }) => instant >= from);
  return {
    zone,
    from: offsets[index]?.from ?? instant,
    to: offsets[index + 1]?.from ?? new Date(0).setUTCFullYear(year + 1, 0, 1),
    offset: offsets[index]?.offset ?? 0,
  };
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
export function instantOf(time: LocalTime, zone: string): number {
  const local = time.day * dayLength + time.minute * 60_000;
  return instantsOf(time, zone)[0] ?? local - zoneOffset(local - dayLength, zone);
}

/** Every instant when local clocks show a day and minute, in order: none where they skip it, two where they repeat it. */
export function instantsOf({ day, minute }: LocalTime, zone: string): number[] {
  const local = day * dayLength + minute * 60_000;
  const early = local - zoneOffset(local - dayLength, zone);
  const late = local - zoneOffset(local + dayLength, zone);
  return (early === late ? [early] : [early, late].sort((left, right) => left - right)).filter(
    (instant) => instant + zoneOffset(instant, zone) === local,
  );
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
  return calendarDate(day).month;
}
