import { dayNumber } from '../attributes/calendar.ts';

/** Which of the two numbers before the year is the day. */
export const dateOrders = ['day-first', 'month-first'] as const;
export type DateOrder = (typeof dateOrders)[number];

/** Which of the two signs in a number begins its decimals. */
export const decimalSigns = ['point', 'comma'] as const;
export type DecimalSign = (typeof decimalSigns)[number];

const yearFirst = /^(\d{4})[./-](\d{1,2})[./-](\d{1,2})$/;
const yearLast = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/;

function iso(year: string, month: string, day: string): string | undefined {
  const text = `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  return dayNumber(text) === undefined ? undefined : text;
}

/** A date as ISO 8601, from one with the year first or last; undefined where it is none in that order. */
export function writtenDate(text: string, order: DateOrder | undefined): string | undefined {
  const [, year, month, day] = yearFirst.exec(text) ?? [];
  if (year && month && day) return iso(year, month, day);
  const [, one, two, last] = yearLast.exec(text) ?? [];
  if (!order || !one || !two || !last) return undefined;
  return order === 'day-first' ? iso(last, two, one) : iso(last, one, two);
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
