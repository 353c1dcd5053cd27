import { dayNumber } from '../attributes/calendar.ts';
import { fold } from '../attributes/text-folding.ts';

/** Which of the two numbers before the year is the day. */
export const dateOrders = ['day-first', 'month-first'] as const;
export type DateOrder = (typeof dateOrders)[number];

/** Which of the two signs in a number begins its decimals. */
export const decimalSigns = ['point', 'comma'] as const;
export type DecimalSign = (typeof decimalSigns)[number];

const yearFirst = /^(\d{4})[./-](\d{1,2})[./-](\d{1,2})$/;
const yearLast = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})$/;
/** A day and the name of a month, either first: “3 March 2026”, “3. März 26”, “3 de marzo de 2026”, “March 3rd, 2026”, “3-Mar-26”. */
const dayAndName =
  /^(\d{1,2})(?:st|nd|rd|th|er|\.|º)?[\s-]*(?:de\s+|of\s+)?([\p{L}\p{M}]+)\.?,?[\s-]*(?:de\s+)?(\d{4}|\d{2})$/u;
const nameAndDay = /^([\p{L}\p{M}]+)\.?\s+(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})$/u;

/** Languages whose names of months are known. */
const languages = ['en', 'de', 'fr', 'es', 'it', 'nl', 'pt', 'sv', 'da', 'pl'];
let monthNames: ReadonlyMap<string, number> | undefined;

/** Names of months, whole and short, as texts are compared. Where two languages use one name, it is the same month. */
function monthNamed(name: string): number | undefined {
  if (!monthNames) {
    const names = new Map<string, number>();
    for (const language of languages)
      for (const month of ['long', 'short'] as const) {
        const format = new Intl.DateTimeFormat(language, { month, day: 'numeric', timeZone: 'UTC' });
        const alone = new Intl.DateTimeFormat(language, { month, timeZone: 'UTC' });
        for (let at = 0; at < 12; at++)
          for (const by of [format, alone])
            for (const { type, value } of by.formatToParts(Date.UTC(2026, at, 1)))
              if (type === 'month') names.set(fold(value.replace(/\.$/, '')), at + 1);
      }
    // Also common, and not what Intl writes.
    names.set('sept', 9);
    monthNames = names;
  }
  return monthNames.get(fold(name));
}

/** How far ahead a year of two digits may lie; a later one is of the century before. */
const yearsAhead = 10;

function wholeYear(year: string, thisYear: number): string {
  if (year.length === 4) return year;
  const ahead = (Number(year) - (thisYear % 100) + 100) % 100;
  return String(thisYear + (ahead > yearsAhead ? ahead - 100 : ahead));
}

function iso(year: string, month: string, day: string): string | undefined {
  const text = `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  return dayNumber(text) === undefined ? undefined : text;
}

/**
 * A date as ISO 8601, from one with the year first or last, or with the name of its month; undefined where it is none in
 * that order.
 *
 * @param thisYear decides the century of a year of two digits: at most ten years ahead
 */
export function writtenDate(
  text: string,
  order: DateOrder | undefined,
  thisYear = new Date().getUTCFullYear(),
): string | undefined {
  const [, year, month, day] = yearFirst.exec(text) ?? [];
  if (year && month && day) return iso(year, month, day);
  const [, one, two, last] = yearLast.exec(text) ?? [];
  if (one && two && last) {
    if (!order) return undefined;
    const whole = wholeYear(last, thisYear);
    return order === 'day-first' ? iso(whole, two, one) : iso(whole, one, two);
  }
  const [, ofDay, named, after] = dayAndName.exec(text) ?? [];
  const [, first, dayAfter, ended] = nameAndDay.exec(text) ?? [];
  const number = monthNamed(named ?? first ?? '');
  const written = after ?? ended;
  return number !== undefined && written
    ? iso(wholeYear(written, thisYear), String(number), ofDay ?? dayAfter ?? '')
    : undefined;
}

/** Whether the order of a date's numbers has to be known to read it. */
export function needsOrder(text: string): boolean {
  return yearLast.test(text);
}

/** A number as it is written in programs, from one with separators of thousands; undefined where it is none. */
export function writtenNumber(text: string, sign: DecimalSign): string | undefined {
  const form =
    sign === 'comma'
      ? /^[+-]?(\d+|\d{1,3}([. \u00a0\u202f]\d{3})+)(,\d+)?$/
      : /^[+-]?(\d+|\d{1,3}([, \u00a0\u202f]\d{3})+)(\.\d+)?$/;
  if (!form.test(text)) return undefined;
  return sign === 'comma'
    ? text.replace(/[. \u00a0\u202f]/g, '').replace(',', '.')
    : text.replace(/[, \u00a0\u202f]/g, '');
}
