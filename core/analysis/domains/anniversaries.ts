import { calendarDate, dayNumber } from '../../attributes/calendar.ts';

/** The days of a leap year, 0 for the first of January; the 29th of February is 59. */
const yearLength = 366;
const leapDay = 59;
const monthStarts = [0, 31, 60, 91, 121, 152, 182, 213, 244, 274, 305, 335];
/** More days than there are without a 29th of February: from 1896 to 1904, 2096 to 2104 and so on. */
export const longestGap = 8 * yearLength;

/** Days of the year that follow each other, round the turn of the year too. */
export interface Arc {
  readonly from: number;
  readonly length: number;
}

/** The place of a day in a leap year, whatever its own year. */
export function placeInYear(day: number): number {
  const { month, date } = calendarDate(day);
  return (monthStarts[month - 1] ?? 0) + date - 1;
}

function isLeapYear(year: number): boolean {
  return (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
}

/**
 * The days of the year that come round from today within each of some numbers of days, as the stretches that these add
 * one after another; the last is of the days that come round within none. The 29th of February comes round on the 28th
 * in years without one.
 *
 * @param spans numbers of days, ascending
 */
export function arcsFrom(today: number, spans: readonly number[]): Arc[] {
  const start = placeInYear(today);
  const arcs: Arc[] = [];
  let covered = 0;
  for (const span of spans) {
    const length = coveredBy(today, start, span);
    arcs.push({ from: (start + covered) % yearLength, length: length - covered });
    covered = length;
  }
  arcs.push({ from: (start + covered) % yearLength, length: yearLength - covered });
  return arcs;
}

function coveredBy(today: number, start: number, span: number): number {
  if (span >= 365) return yearLength;
  let end = placeInYear(today + span);
  if (end === leapDay - 1 && !isLeapYear(calendarDate(today + span).year)) end = leapDay;
  const length = ((end - start + yearLength) % yearLength) + 1;
  // Less than a year back to the day before today is all of it; a day itself is just that.
  return span > 300 && length < 60 ? yearLength : length;
}

/** Whether a day is within an arc of the year. */
export function isInArc(day: number, { from, length }: Arc): boolean {
  return (placeInYear(day) - from + yearLength) % yearLength < length;
}

/** The first day of an inclusive range that is within an arc; undefined if none is. */
export function firstInArc(first: number, last: number, arc: Arc): number | undefined {
  if (first > last || arc.length <= 0) return undefined;
  if (isInArc(first, arc)) return first;
  const { year } = calendarDate(first);
  for (let at = year; at <= year + 9; at++) {
    // Where a year has no 29th of February, what begins with it begins a day later.
    const place = arc.from === leapDay && !isLeapYear(at) ? leapDay + 1 : arc.from;
    if (place !== arc.from && arc.length === 1) continue;
    const day = dayAt(at, place);
    if (day >= first) return day <= last ? day : undefined;
    if (day > last) return undefined;
  }
  return undefined;
}

function dayAt(year: number, place: number): number {
  const newYear = dayNumber(`${String(year).padStart(4, '0')}-01-01`) ?? Number.POSITIVE_INFINITY;
  return newYear + place - (place > leapDay && !isLeapYear(year) ? 1 : 0);
}

/** Whether a stretch of days is so long that every day of the year is in it. */
export function hasWholeYear(first: number, last: number): boolean {
  return last - first > longestGap;
}

const leapPatterns = new Map<number, string>();

/** Which of the years around one are leap years, as a text; the same for years around which they are alike. */
export function leapYearsAround(year: number, years: number): string {
  const key = year * 1000 + years;
  let pattern = leapPatterns.get(key);
  if (pattern === undefined) {
    pattern = '';
    for (let at = year - years; at <= year + years; at++) pattern += isLeapYear(at) ? '1' : '0';
    leapPatterns.set(key, pattern);
  }
  return pattern;
}
