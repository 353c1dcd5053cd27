const dayLength = 86_400_000;
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
let lastHour: { zone: string; hour: number; day: number } | undefined;

/**
 * The local calendar day, as a day number, of an instant (milliseconds since 1970 UTC) in an IANA time zone.
 * Throws RangeError for a zone that Intl does not know.
 */
export function localDay(instant: number, zone: string): number {
  // All zones in use change their offset on quarter hours, so a quarter hour has one local day.
  const hour = Math.floor(instant / 900_000);
  if (lastHour?.zone === zone && lastHour.hour === hour) return lastHour.day;
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone: zone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
    });
    formats.set(zone, format);
  }
  const parts = Object.fromEntries(format.formatToParts(instant).map((part) => [part.type, part.value]));
  const day = Date.UTC(Number(parts.year), Number(parts.month) - 1, Number(parts.day)) / dayLength;
  lastHour = { zone, hour, day };
  return day;
}

export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}
