const dayLength = 86_400_000;
const pattern = /^(\d{4})-(\d{2})-(\d{2})$/;

/**
 * The number of days from 1970-01-01 to an ISO 8601 calendar date, or undefined where the text is no such date
 * (`2026-02-30`, `29/11/2026`).
 *
 * @example dayNumber('1970-01-02') // 1
 */
export function dayNumber(date: string): number | undefined {
  const found = pattern.exec(date);
  if (!found) return undefined;
  const [year, month, day] = [Number(found[1]), Number(found[2]), Number(found[3])];
  const time = Date.UTC(year, month - 1, day);
  const back = new Date(time);
  if (year < 100 || back.getUTCMonth() !== month - 1 || back.getUTCDate() !== day) return undefined;
  return time / dayLength;
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
