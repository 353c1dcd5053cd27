import * as library from 'rrule';
import { dayLength, instantOf, type LocalTime, localTime, readLocalTime } from '../attributes/calendar.ts';

// The package is CommonJS to Node, which hands it over as a default export, and a module of names to bundlers.
const packed: typeof library | undefined = Reflect.get(library, 'default');
const { RRule } = packed ?? library;
type Rule = InstanceType<typeof RRule>;

/** Longest window that can recur: four weeks, in minutes. */
export const longestWindow = 28 * 24 * 60;
const minute = 60_000;

/** Why a text is no recurrence rule that is accepted here (RFC 5545, 3.3.10), or undefined where it is one. */
export function ruleProblem(text: string): string | undefined {
  if (text.length > 300 || !/^[A-Z]+=[A-Z0-9,+-]+(;[A-Z]+=[A-Z0-9,+-]+)*$/.test(text))
    return 'is not a recurrence rule such as FREQ=WEEKLY;BYDAY=FR';
  if (!/(^|;)FREQ=(DAILY|WEEKLY|MONTHLY|YEARLY)(;|$)/.test(text))
    return 'must recur by day, week, month or year (FREQ=DAILY, WEEKLY, MONTHLY or YEARLY)';
  if (/BYHOUR|BYMINUTE|BYSECOND|BYEASTER|DTSTART|TZID/.test(text))
    return 'takes its time of day from the start, so the rule has none';
  if (/INTERVAL=0+(;|$)/.test(text)) return 'has an interval of 0';
  try {
    makeRule(text, { day: 0, minute: 0 });
    return undefined;
  } catch {
    return 'is not a recurrence rule such as FREQ=WEEKLY;BYDAY=FR';
  }
}

/** The library counts in UTC; local clock times are given to it as if they were UTC, and converted afterwards. */
function makeRule(text: string, start: LocalTime): Rule {
  return new RRule({ ...RRule.parseString(text), dtstart: new Date(asUtc(start)) });
}

function asUtc({ day, minute: minutes }: LocalTime): number {
  return day * dayLength + minutes * minute;
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

interface Stretch {
  /** The first instant at which the answer may be another. */
  readonly until: number;
  readonly inside: boolean;
}

/** Days that are worked out at once. */
const daysAhead = 400;

/** A window that recurs on local clocks: it starts by a rule and lasts a number of minutes, its end excluded. */
export class Recurrence {
  private readonly rule: Rule;
  private readonly length: number;
  /** All windows that touch a span of time, as their starts in order. */
  private known: { from: number; until: number; starts: readonly number[] } | undefined;

  /**
   * @param start local date and time of the first window, `2026-11-27T20:00`
   * @param minutes how long each lasts
   * @param rule RFC 5545, without a time of day; see {@link ruleProblem}
   */
  constructor(
    start: string,
    minutes: number,
    rule: string,
    private readonly zone: string,
  ) {
    const local = readLocalTime(start);
    if (!local) throw new Error(`no date and time “${start}”`);
    this.rule = makeRule(rule, local);
    this.length = minutes * minute;
  }

  covers(instant: number): boolean {
    return this.stretchAt(instant).inside;
  }

  /** Whether an instant is in a window, and until when that stays so; infinite where it stays for good. */
  stretchAt(instant: number): Stretch {
    const { starts, until } = this.windowsAround(instant);
    let inside = false;
    let change = Number.POSITIVE_INFINITY;
    // The last windows that started by then; they may overlap.
    for (let at = firstAfter(starts, instant) - 1; at >= 0; at--) {
      const end = (starts[at] ?? 0) + this.length;
      if (end <= instant) break;
      inside = true;
      change = Math.min(change, end);
    }
    const next = starts[firstAfter(starts, instant)];
    if (next !== undefined) change = Math.min(change, next);
    if (change < Number.POSITIVE_INFINITY) return { inside, until: change };
    const later = this.rule.after(new Date(asUtc(localTime(until, this.zone)) - dayLength));
    return { inside, until: later ? Math.max(this.instant(later), instant + 1) : change };
  }

  private windowsAround(instant: number): { until: number; starts: readonly number[] } {
    if (this.known && instant >= this.known.from && instant < this.known.until) return this.known;
    const here = asUtc(localTime(instant, this.zone));
    // Clocks are moved by less than a day, so that a day more on each side misses no window.
    const from = here - this.length - dayLength;
    const until = here + daysAhead * dayLength;
    const starts = this.rule
      .between(new Date(from), new Date(until + dayLength), true)
      .map((date) => this.instant(date));
    this.known = { from: instant, until: instant + daysAhead * dayLength, starts };
    return this.known;
  }

  private instant(date: Date): number {
    const local = date.getTime();
    const day = Math.floor(local / dayLength);
    return instantOf({ day, minute: Math.floor((local - day * dayLength) / minute) }, this.zone);
  }
}

/** The place of the first number greater than another in a sorted list. */
function firstAfter(sorted: readonly number[], number: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] ?? 0) <= number) low = middle + 1;
    else high = middle;
  }
  return low;
}
