import * as library from 'rrule';
import { calendarDate, dayNumber, weekdayOf } from '../attributes/calendar.ts';

// The package is CommonJS to Node, which hands it over as a default export, and a module of names to bundlers.
const packed: typeof library | undefined = Reflect.get(library, 'default');
const { RRule } = packed ?? library;

const frequencies = ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'] as const;
type Frequency = (typeof frequencies)[number];
const weekdays = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];

/** Most windows that COUNT may ask for; a rule that goes on for longer has an end date, or none. */
export const mostCounted = 1000;
/** The Gregorian calendar repeats after 400 years: 146,097 days, 20,871 weeks. */
export const calendarCycle = 146_097;
const lastDay = dayNumber('9999-12-31') ?? 0;

/** The parts of a recurrence rule, read and checked. Months are 1 to 12, weekdays 0 (Monday) to 6. */
interface Parts {
  readonly frequency: Frequency;
  readonly interval: number;
  readonly count: number | undefined;
  /** The last day that it may start on. */
  readonly until: { readonly day: number; readonly minute: number } | undefined;
  readonly weekStart: number;
  readonly months: ReadonlySet<number> | undefined;
  readonly weekNumbers: ReadonlySet<number> | undefined;
  readonly yearDays: ReadonlySet<number> | undefined;
  readonly monthDays: ReadonlySet<number> | undefined;
  readonly weekdays: readonly { weekday: number; ordinal: number | undefined }[] | undefined;
  readonly positions: ReadonlySet<number> | undefined;
}

/** Thrown for a text that is no rule; its message completes "This rule …". */
class NoRule extends Error {}

const notARule = 'is not a recurrence rule such as FREQ=WEEKLY;BYDAY=FR';

function readParts(text: string): Parts {
  if (text.length > 300 || !/^[A-Z]+=[A-Z0-9,+-]+(;[A-Z]+=[A-Z0-9,+-]+)*$/.test(text))
    throw new NoRule(notARule);
  const parts = new Map<string, string>();
  for (const part of text.split(';')) {
    const [name = '', value = ''] = part.split('=');
    if (parts.has(name)) throw new NoRule(`has ${name} twice`);
    parts.set(name, value);
  }
  const frequency = frequencies.find((one) => one === parts.get('FREQ'));
  if (!frequency)
    throw new NoRule('must recur by day, week, month or year (FREQ=DAILY, WEEKLY, MONTHLY or YEARLY)');
  for (const name of parts.keys()) {
    if (/^(BYHOUR|BYMINUTE|BYSECOND|DTSTART|TZID)$/.test(name))
      throw new NoRule('takes its time of day from the start, so it can’t have one of its own');
    if (!known.has(name)) throw new NoRule(`has ${name}, which is not part of recurrence rules`);
  }
  const yearly = frequency === 'YEARLY';
  const onlyFor = (name: string, holds: boolean, when: string) => {
    if (parts.has(name) && !holds) throw new NoRule(`has ${name}, which only fits ${when}`);
  };
  onlyFor('BYWEEKNO', yearly, 'FREQ=YEARLY');
  onlyFor('BYYEARDAY', yearly, 'FREQ=YEARLY');
  onlyFor('BYMONTHDAY', frequency !== 'WEEKLY', 'FREQ=DAILY, MONTHLY or YEARLY');
  const filters = [...parts.keys()].filter((name) => name.startsWith('BY') && name !== 'BYSETPOS');
  onlyFor('BYSETPOS', filters.length > 0, 'rules with another BY… part');
  if (parts.has('COUNT') && parts.has('UNTIL'))
    throw new NoRule('has both COUNT and UNTIL; one of them says when it ends');
  const byDay = weekdaysOf(parts.get('BYDAY'));
  if (
    byDay?.some(({ ordinal }) => ordinal !== undefined) &&
    (parts.has('BYWEEKNO') || !(yearly || frequency === 'MONTHLY'))
  )
    throw new NoRule(
      'counts weekdays (such as 2FR), which only fits FREQ=MONTHLY or YEARLY without BYWEEKNO',
    );
  return {
    frequency,
    interval: wholeNumber(parts, 'INTERVAL', 10_000) ?? 1,
    count: wholeNumber(parts, 'COUNT', mostCounted),
    until: endOf(parts.get('UNTIL')),
    weekStart: weekStartOf(parts.get('WKST')),
    months: numbers(parts, 'BYMONTH', 12, false),
    weekNumbers: numbers(parts, 'BYWEEKNO', 53, true),
    yearDays: numbers(parts, 'BYYEARDAY', 366, true),
    monthDays: numbers(parts, 'BYMONTHDAY', 31, true),
    weekdays: byDay,
    positions: numbers(parts, 'BYSETPOS', 366, true),
  };
}

const known = new Set(
  'FREQ INTERVAL COUNT UNTIL WKST BYMONTH BYWEEKNO BYYEARDAY BYMONTHDAY BYDAY BYSETPOS'.split(' '),
);

function wholeNumber(parts: ReadonlyMap<string, string>, name: string, most: number): number | undefined {
  const text = parts.get(name);
  if (text === undefined) return undefined;
  if (!/^\d{1,9}$/.test(text)) throw new NoRule(notARule);
  const number = Number(text);
  if (number < 1 || number > most) throw new NoRule(`has ${name}=${text}; it can be 1 to ${most}`);
  return number;
}

function numbers(
  parts: ReadonlyMap<string, string>,
  name: string,
  most: number,
  fromEnd: boolean,
): Set<number> | undefined {
  const text = parts.get(name);
  if (text === undefined) return undefined;
  return new Set(
    text.split(',').map((one) => {
      if (!/^[+-]?\d{1,3}$/.test(one)) throw new NoRule(notARule);
      const number = Number(one);
      if (number === 0 || Math.abs(number) > most || (number < 0 && !fromEnd))
        throw new NoRule(
          `has ${name}=${one}; it can be 1 to ${most}${fromEnd ? `, or -1 to -${most} from the end` : ''}`,
        );
      return number;
    }),
  );
}

function weekdaysOf(text: string | undefined): Parts['weekdays'] {
  return text?.split(',').map((one) => {
    const [, ordinal, name = ''] = /^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/.exec(one) ?? [];
    const weekday = weekdays.indexOf(name);
    if (weekday < 0 || Number(ordinal) === 0 || Math.abs(Number(ordinal)) > 53) throw new NoRule(notARule);
    return { weekday, ordinal: ordinal === undefined ? undefined : Number(ordinal) };
  });
}

function weekStartOf(text: string | undefined): number {
  const found = weekdays.indexOf(text ?? 'MO');
  if (found < 0) throw new NoRule(notARule);
  return found;
}

/** UNTIL as a local day and minute; a time in UTC is taken as local, as windows are local here. */
function endOf(text: string | undefined): Parts['until'] {
  if (text === undefined) return undefined;
  const [, year, month, date, hour = '23', minute = '59'] =
    /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)\d\dZ?)?$/.exec(text) ?? [];
  const day = dayNumber(`${year}-${month}-${date}`);
  if (day === undefined || Number(hour) > 23 || Number(minute) > 59)
    throw new NoRule(`has UNTIL=${text}; it is a day, such as 20271231`);
  return { day, minute: 60 * Number(hour) + Number(minute) };
}

/** Days that share a period of the rule: the days from one to another and the period's place in order. */
interface Period {
  readonly index: number;
  readonly from: number;
  readonly to: number;
}

/**
 * The days on which something recurs, by a recurrence rule of RFC 5545 (section 3.3.10) that repeats by day, week, month
 * or year. Asking about a day takes the same short time for every day: nothing is searched for.
 */
export class RecurrenceRule {
  /** The last day it can start on; infinite for a rule without an end. */
  readonly lastDay: number;
  private readonly parts: Parts;
  private readonly startMonthDay: number;
  private readonly startMonth: number;
  private readonly startPeriod: number;
  private readonly positionsOf = new Map<number, ReadonlySet<number>>();

  /**
   * Throws an Error for a text that is no rule; see {@link ruleProblem}.
   *
   * @param startDay day number of the first
   * @param startMinute the time of day that all start at, which only matters on the last day of UNTIL
   */
  constructor(
    text: string,
    readonly startDay: number,
    startMinute: number,
  ) {
    this.parts = readParts(text);
    const { month, date } = calendarDate(startDay);
    this.startMonth = month;
    this.startMonthDay = date;
    this.startPeriod = this.periodOf(startDay).index;
    const { until, count } = this.parts;
    const byUntil =
      until === undefined ? Number.POSITIVE_INFINITY : until.day - (until.minute < startMinute ? 1 : 0);
    this.lastDay = byUntil;
    if (count !== undefined) this.lastDay = this.dayOfCount(count);
  }

  /** Whether it starts on a day. */
  startsOn(day: number): boolean {
    if (day < this.startDay || day > this.lastDay) return false;
    const { frequency, interval, positions } = this.parts;
    if (frequency === 'DAILY' && interval > 1 && (day - this.startDay) % interval !== 0) return false;
    if (!this.fits(day)) return false;
    if (frequency === 'DAILY') return positions === undefined || positions.has(1) || positions.has(-1);
    if (interval === 1 && positions === undefined) return true;
    const period = this.periodOf(day);
    if ((period.index - this.startPeriod) % interval !== 0) return false;
    return positions === undefined || this.placesIn(period).has(day);
  }

  /**
   * The first day from one on that it starts on; undefined where there is none within 400 years, after which a rule
   * that has not started repeats its calendar.
   */
  nextFrom(day: number): number | undefined {
    const first = Math.max(day, this.startDay);
    const last = Math.min(first + calendarCycle, this.lastDay, lastDay);
    for (let at = first; at <= last; at = this.skipped(at)) if (this.startsOn(at)) return at;
    return undefined;
  }

  /**
   * Whether its days depend on the weekday alone, so that a year of days shows all there is to see: every day, or
   * certain weekdays of every week.
   */
  get isPlain(): boolean {
    const { frequency, interval, months, monthDays, positions } = this.parts;
    return (
      (frequency === 'DAILY' || frequency === 'WEEKLY') &&
      interval === 1 &&
      months === undefined &&
      monthDays === undefined &&
      positions === undefined
    );
  }

  /** Whether its days repeat with the calendar, every 400 years, for as long as it goes on. */
  get repeatsWithCalendar(): boolean {
    const { frequency, interval } = this.parts;
    const cycle = { DAILY: calendarCycle, WEEKLY: calendarCycle / 7, MONTHLY: 4800, YEARLY: 400 }[frequency];
    return cycle % interval === 0;
  }

  /** The next day that can be one: the day after, or the start of the next period where this one is left out. */
  private skipped(day: number): number {
    const { frequency, interval } = this.parts;
    if (frequency === 'DAILY')
      return day + interval - ((((day - this.startDay) % interval) + interval) % interval);
    if (interval > 1) {
      const { index, to } = this.periodOf(day);
      if ((index - this.startPeriod) % interval !== 0) return to + 1;
    }
    const { year, month, date } = calendarDate(day);
    return this.canBeIn(month) ? day + 1 : day - date + daysIn(year, month) + 1;
  }

  private canBeIn(month: number): boolean {
    const { frequency, months, weekNumbers, yearDays, monthDays, weekdays: byDay } = this.parts;
    if (months) return months.has(month);
    const byStart = frequency === 'YEARLY' && !weekNumbers && !yearDays && !monthDays && !byDay;
    return !byStart || month === this.startMonth;
  }

  private dayOfCount(count: number): number {
    let found = Number.NEGATIVE_INFINITY;
    for (let left = count, day: number | undefined = this.startDay - 1; left > 0; left--) {
      day = this.nextFrom(day + 1);
      if (day === undefined) break;
      found = day;
    }
    return found;
  }

  /** What a day has to be by itself, whatever the interval and the position in its period. */
  private fits(day: number): boolean {
    const { frequency, months, weekNumbers, yearDays, monthDays, weekdays: byDay } = this.parts;
    const weekday = weekdayOf(day);
    if (frequency === 'WEEKLY' && !byDay && weekday !== weekdayOf(this.startDay)) return false;
    if (byDay && !byDay.some((one) => one.weekday === weekday)) return false;
    // What is left asks for the date, which days and weeks only have with these.
    if (!months && !monthDays && (frequency === 'DAILY' || frequency === 'WEEKLY')) return true;
    const { year, month, date } = calendarDate(day);
    if (months && !months.has(month)) return false;
    const monthLength = daysIn(year, month);
    if (monthDays && !monthDays.has(date) && !monthDays.has(date - monthLength - 1)) return false;
    if (yearDays || weekNumbers) {
      const newYear = day - dayOfYear(month, date, year);
      const yearLength = isLeap(year) ? 366 : 365;
      if (yearDays && !yearDays.has(day - newYear) && !yearDays.has(day - newYear - yearLength - 1))
        return false;
      if (weekNumbers && !this.isInWeek(day, weekNumbers)) return false;
    }
    if (byDay?.some(({ ordinal }) => ordinal !== undefined) && !this.isCounted(byDay, day)) return false;
    if (frequency === 'MONTHLY' && !monthDays && !byDay) return date === this.startMonthDay;
    if (frequency === 'YEARLY' && !yearDays && !monthDays && !byDay) {
      if (weekNumbers) return weekday === weekdayOf(this.startDay);
      return date === this.startMonthDay && (months !== undefined || month === this.startMonth);
    }
    return true;
  }

  /** Whether a day is the second Friday, the last Monday and the like of its month or year. */
  private isCounted(byDay: NonNullable<Parts['weekdays']>, day: number): boolean {
    const { year, month, date } = calendarDate(day);
    const byMonth = this.parts.frequency === 'MONTHLY' || this.parts.months !== undefined;
    const at = byMonth ? date : dayOfYear(month, date, year);
    const length = byMonth ? daysIn(year, month) : isLeap(year) ? 366 : 365;
    const fromStart = Math.floor((at - 1) / 7) + 1;
    const fromEnd = -Math.floor((length - at) / 7) - 1;
    const weekday = weekdayOf(day);
    return byDay.some(
      (one) =>
        one.weekday === weekday &&
        (one.ordinal === undefined || one.ordinal === fromStart || one.ordinal === fromEnd),
    );
  }

  /** Weeks are numbered as in ISO 8601, from the first with four days in the year, by the day that weeks start on. */
  private isInWeek(day: number, weekNumbers: ReadonlySet<number>): boolean {
    const weekStart = day - ((weekdayOf(day) - this.parts.weekStart + 7) % 7);
    // The year that most of the week lies in.
    const { year } = calendarDate(weekStart + 3);
    const number = (weekStart - this.firstWeek(year)) / 7 + 1;
    const weeks = (this.firstWeek(year + 1) - this.firstWeek(year)) / 7;
    return weekNumbers.has(number) || weekNumbers.has(number - weeks - 1);
  }

  private firstWeek(year: number): number {
    const fourth = firstDayOf(year, 1) + 3;
    return fourth - ((weekdayOf(fourth) - this.parts.weekStart + 7) % 7);
  }

  private periodOf(day: number): Period {
    switch (this.parts.frequency) {
      case 'DAILY':
        return { index: day, from: day, to: day };
      case 'WEEKLY': {
        const from = day - ((weekdayOf(day) - this.parts.weekStart + 7) % 7);
        return { index: Math.floor((from + 3) / 7), from, to: from + 6 };
      }
      case 'MONTHLY': {
        const { year, month, date } = calendarDate(day);
        return { index: 12 * year + month - 1, from: day - date + 1, to: day - date + daysIn(year, month) };
      }
      case 'YEARLY': {
        const { year } = calendarDate(day);
        return { index: year, from: firstDayOf(year, 1), to: firstDayOf(year + 1, 1) - 1 };
      }
    }
  }

  /** The days of a period that BYSETPOS picks, among those that fit. */
  private placesIn(period: Period): ReadonlySet<number> {
    const known = this.positionsOf.get(period.index);
    if (known) return known;
    const fitting: number[] = [];
    for (let day = period.from; day <= period.to; day++) if (this.fits(day)) fitting.push(day);
    const picked = new Set<number>();
    for (const position of this.parts.positions ?? []) {
      const day = fitting.at(position > 0 ? position - 1 : position);
      if (day !== undefined) picked.add(day);
    }
    this.positionsOf.set(period.index, picked);
    return picked;
  }
}

function isLeap(year: number): boolean {
  return (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
}

const monthLengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

function daysIn(year: number, month: number): number {
  return month === 2 && isLeap(year) ? 29 : (monthLengths[month - 1] ?? 31);
}

/** 1 for the first of January. */
function dayOfYear(month: number, date: number, year: number): number {
  let days = date;
  for (let before = 1; before < month; before++) days += daysIn(year, before);
  return days;
}

function firstDayOf(year: number, month: number): number {
  return dayNumber(`${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-01`) ?? 0;
}

/**
 * Why a text is no recurrence rule that is accepted here, as the rest of a sentence that begins with "This rule"; undefined
 * where it is one. Beyond RFC 5545, 3.3.10, a rule must not have a time of day of its own, must occur at least once and
 * ends after at most 1,000 windows where COUNT says when.
 */
export function ruleProblem(text: string): string | undefined {
  try {
    readParts(text);
    return undefined;
  } catch (error) {
    if (error instanceof NoRule) return error.message;
    throw error;
  }
}

/**
 * Why a rule can't begin on a day, as the rest of a sentence that begins with "This rule": it never occurs, or not on
 * that day. Undefined where it can. The rule must be free of problems of its own.
 */
export function startProblem(text: string, startDay: number): string | undefined {
  const rule = new RecurrenceRule(text, startDay, 0);
  if (rule.startsOn(startDay)) return undefined;
  const next = rule.nextFrom(startDay);
  if (next === undefined) return 'never occurs from its start date on';
  return `does not occur on its start date; the first time after that is ${sayDay(next)}`;
}

function sayDay(day: number): string {
  return new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' }).format(day * 86_400_000);
}

/** A rule in English, such as "every week on Friday"; the rule itself where English can't say all of it. */
export function sayRule(text: string): string {
  try {
    const rule = RRule.fromString(text);
    return rule.isFullyConvertibleToText() && !/BYSETPOS|WKST/.test(text) ? rule.toText() : text;
  } catch {
    return text;
  }
}
