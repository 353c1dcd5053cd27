import { instantOf, localTime } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { latestInstant, momentFact } from '../attributes/viewer.ts';
import { planTest } from '../conditions/check.ts';
import type { Test } from '../conditions/condition.ts';
import { meaningOf } from '../conditions/meaning.ts';
import { Recurrence } from '../conditions/recurrence.ts';
import { signature } from './cells.ts';

/** Moments that all tests take alike, from now on. */
export interface MomentCell {
  /** The first of them that was found. */
  readonly instant: number;
  readonly outcomes: readonly boolean[];
}

/** How many days after now, and after each date that a test names, are looked at one by one. */
export const daysLookedAt = 366;
/** How many windows of each recurrence are looked at. */
const windowsLookedAt = 60;

/**
 * The moments from now on that tests of the moment can tell apart, now being the first cell. Between any two dates
 * that tests name, a year of days is enough to meet every weekday in every month and season at every time of day;
 * recurring windows are followed for their next 60.
 *
 * @param now milliseconds since 1970 UTC
 * @param splitFurther a name for what else changes with the day, and the days on which it may change; moments that
 *   differ in it are kept apart
 */
export function momentCells(
  tests: readonly Test[],
  catalogue: Catalogue,
  now: number,
  splitFurther: { nameOf: (today: number) => string; days: readonly number[] },
): MomentCell[] {
  const { zone } = catalogue;
  const plans = tests.map((test) => ({ id: test.attribute, ...planTest(test, catalogue) }));
  const cells = new Map<string, MomentCell>();
  const look = (instant: number): void => {
    if (instant < now || instant > latestInstant) return;
    const { day, minute } = localTime(instant, zone);
    const facts = { values: [], today: day };
    const outcomes = plans.map(({ id, holds }) => holds(momentFact(id, instant, day, minute), facts));
    const key = `${signature(outcomes)} ${splitFurther.nameOf(day)}`;
    if (!cells.has(key)) cells.set(key, { instant, outcomes });
  };
  look(now);
  const { instants, windows, minutes } = criticalTimes(tests, catalogue, now);
  const today = localTime(now, zone).day;
  const starts = [...new Set([now, ...instants])].sort((left, right) => left - right);
  const varies = tests.length > 0 || splitFurther.days.length > 0;
  for (const [index, start] of varies ? starts.entries() : []) {
    look(start - 1);
    look(start);
    const first = localTime(start, zone).day;
    const next = starts[index + 1];
    const last = Math.min(
      first + daysLookedAt,
      next === undefined ? Number.POSITIVE_INFINITY : localTime(next, zone).day,
    );
    for (let day = first; day <= last; day++)
      for (const minute of minutes) look(instantOf({ day, minute }, zone));
  }
  for (const { from, until } of windows) {
    look(from - 1);
    look(from);
    look(until - 1);
    look(until);
    const last = localTime(until, zone).day;
    for (let day = localTime(from, zone).day; day <= last; day++)
      for (const minute of minutes) look(instantOf({ day, minute }, zone));
  }
  for (const day of splitFurther.days)
    if (day > today) for (const minute of minutes) look(instantOf({ day, minute }, zone));
  return [...cells.values()];
}

/** The fixed instants at which an answer may change, from now on, recurring windows, and the minutes of a day. */
function criticalTimes(
  tests: readonly Test[],
  catalogue: Catalogue,
  now: number,
): { instants: number[]; windows: { from: number; until: number }[]; minutes: number[] } {
  const instants: number[] = [];
  const windows: { from: number; until: number }[] = [];
  const minutes = new Set([0]);
  for (const test of tests) {
    const attribute = catalogue.get(test.attribute);
    if (!attribute) continue;
    const { question } = meaningOf(test, attribute, catalogue);
    if (question.kind === 'recurs') {
      const recurrence = new Recurrence(question.start, question.minutes, question.rule, catalogue.zone);
      let at = now;
      for (let count = 0; count < 2 * windowsLookedAt; count++) {
        const { until, inside } = recurrence.stretchAt(at);
        if (!Number.isFinite(until)) break;
        if (inside) windows.push({ from: at, until });
        at = until;
      }
    }
    if (question.kind !== 'within') continue;
    const bounds = question.ranges.flatMap(({ from, to }) => [from, to]).filter(Number.isFinite);
    if (attribute.type === 'time') for (const bound of bounds) minutes.add(bound);
    else instants.push(...bounds.filter((bound) => bound > now));
  }
  return { instants, windows, minutes: [...minutes].sort((left, right) => left - right) };
}

/** The last instant at which a test of the moment can hold by its fixed bounds; infinite where it has none. */
export function endOf(test: Test, catalogue: Catalogue): number {
  const attribute = catalogue.get(test.attribute);
  if (attribute?.source !== 'moment' || attribute.type !== 'date-time') return Number.POSITIVE_INFINITY;
  const { question } = meaningOf(test, attribute, catalogue);
  if (question.kind !== 'within') return Number.POSITIVE_INFINITY;
  return Math.max(...question.ranges.map(({ to }) => to));
}
