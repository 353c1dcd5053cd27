import { instantOf, localDay, readLocalTime } from '../attributes/calendar.ts';
import { RecurrenceRule } from './recurrence-rule.ts';

/** Longest window that can recur: four weeks, in minutes. */
export const longestWindow = 28 * 24 * 60;
const minuteLength = 60_000;

/** A stretch of time, in milliseconds since 1970 UTC, its end excluded. */
export interface Window {
  readonly from: number;
  readonly until: number;
}

/**
 * A window that recurs on local clocks: it opens by a rule at one time of day and lasts a number of minutes, its end
 * excluded. Windows may overlap. Asking about an instant looks at the days on which a window that is still open can
 * have begun, and at no others.
 */
export class Recurrence {
  readonly rule: RecurrenceRule;
  /** Minutes after local midnight at which each window opens. */
  readonly startMinute: number;
  /** How many days before a day a window can have opened that still lasts on it. */
  readonly daysOpen: number;
  private readonly length: number;
  private known: { day: number; windows: readonly Window[] } = { day: Number.NaN, windows: [] };

  /**
   * Throws an Error for a start that is no date and time or a text that is no rule.
   *
   * @param start local date and time of the first window, `2026-11-27T20:00`
   * @param minutes how long each lasts
   * @param rule RFC 5545, without a time of day; see recurrence-rule.ts
   */
  constructor(
    start: string,
    minutes: number,
    rule: string,
    private readonly zone: string,
  ) {
    const local = readLocalTime(start);
    if (!local) throw new Error(`no date and time “${start}”`);
    this.rule = new RecurrenceRule(rule, local.day, local.minute);
    this.startMinute = local.minute;
    this.length = minutes * minuteLength;
    // Clocks that are put forward make a window end up to a day later by local time.
    this.daysOpen = Math.ceil((local.minute + minutes) / 1440) + 1;
  }

  covers(instant: number): boolean {
    for (const { from, until } of this.windowsOn(localDay(instant, this.zone)))
      if (instant >= from && instant < until) return true;
    return false;
  }

  /** The windows that may touch a local day, in the order in which they open. */
  windowsOn(day: number): readonly Window[] {
    if (this.known.day === day) return this.known.windows;
    const windows: Window[] = [];
    for (let start = day - this.daysOpen; start <= day + 1; start++) {
      if (!this.rule.startsOn(start)) continue;
      const from = instantOf({ day: start, minute: this.startMinute }, this.zone);
      windows.push({ from, until: from + this.length });
    }
    this.known = { day, windows };
    return windows;
  }

  /** The end of the last window; infinite for a rule without an end, the earliest instant where no window ever opens. */
  get end(): number {
    const { lastDay } = this.rule;
    if (!Number.isFinite(lastDay)) return lastDay;
    let last = lastDay;
    const first = Math.max(this.rule.startDay, lastDay - 400 * 366);
    while (last >= first && !this.rule.startsOn(last)) last--;
    if (last < first) return Number.NEGATIVE_INFINITY;
    return instantOf({ day: last, minute: this.startMinute }, this.zone) + this.length;
  }

  /** When the first window opens; undefined where none does within 400 years. */
  get start(): number | undefined {
    const day = this.rule.nextFrom(this.rule.startDay);
    return day === undefined ? undefined : instantOf({ day, minute: this.startMinute }, this.zone);
  }
}
