import { LRUCache } from 'lru-cache';
import {
  calendarDate,
  dayLength,
  dayNumber,
  instantsOf,
  localDay,
  localTime,
  weekdayOf,
} from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { clockChanges } from '../attributes/clock-changes.ts';
import { Facts, latestInstant, momentFact } from '../attributes/viewer.ts';
import type { Test } from '../conditions/condition.ts';
import { compileTest } from '../conditions/evaluate.ts';
import { meaningOf } from '../conditions/meaning.ts';
import { Recurrence } from '../conditions/recurrence.ts';
import { calendarCycle } from '../conditions/recurrence-rule.ts';
import type { Work } from './diagrams/work.ts';
import type { TiedDateDomain } from './domains/dates.ts';
import { TooManyValues } from './domains/domain.ts';
import { mergeRanges } from './domains/ranges.ts';

/** Moments that all tests take alike, from now on. */
export interface MomentCell {
  /** The first of them; the end of what was looked at for moments after it. */
  readonly instant: number;
  readonly outcomes: readonly boolean[];
}

export interface Moments {
  /** Now is in the first. */
  readonly cells: readonly MomentCell[];
  /** What there may be after the horizon, where that was asked for. */
  readonly later: readonly MomentCell[];
  /**
   * The end of the time that was looked at, where there may be moments after it that are in none of the cells; undefined
   * where every later moment is in one.
   */
  readonly horizon: number | undefined;
}

/** In any 366 days, every weekday falls into every month. */
const yearOfDays = 366;
/** In 28 years the calendar shows every year there is, but for those around a century without a leap day. */
const generation = 28 * 366;
const decade = 10 * 366;
/** Most tests of the moment and most cells. */
const mostTests = 250;
const mostCells = 5000;
/** Most recurring windows for which moments past the horizon are made up. */
const mostFree = 6;

/**
 * The moments from now on that tests of the moment can tell apart, together with what dates that are tied to the moment can
 * be then. Days are gone through one by one, for as long as it takes to meet every combination there is: a year where only
 * weekdays, months and times of day count; 28 years and those around the next centuries where days of the year do; 400
 * years, after which the Gregorian calendar repeats, where windows recur. That is done again after each date that a test
 * names. Days that are alike in all that matters are looked into once, minute by minute where answers can change: at the
 * ends of windows, and where clocks are changed, so that a repeated hour counts twice.
 *
 * @param now milliseconds since 1970 UTC
 * @param tied dates that are compared in several ways
 * @param beyond whether to include what may be after the horizon: any combination of windows that recur
 */
export function momentsFrom(
  tests: readonly Test[],
  catalogue: Catalogue,
  now: number,
  tied: readonly TiedDateDomain[],
  work: Work,
  beyond = false,
): Moments {
  if (tests.length > mostTests)
    throw new TooManyValues(`the moment is tested in more than ${mostTests} ways`);
  const key = JSON.stringify([
    catalogue.zone,
    now,
    beyond,
    tests.map(({ attribute, op, values }) => [attribute, op, values]),
    tied.map((domain) => [domain.attribute.type, domain.splitBy]),
  ]);
  let found = remembered.get(key);
  if (!found) {
    const search = new MomentSearch(tests, catalogue, now, tied, work);
    found = { cells: search.cells, later: beyond ? search.later() : [], horizon: search.horizon };
  }
  remembered.set(key, found);
  return found;
}

/** What was found last: while somebody writes, and from one audience to the next, the tests are mostly the same. */
const remembered = new LRUCache<string, Moments>({ max: 200 });

class MomentSearch {
  readonly cells: MomentCell[] = [];
  horizon: number | undefined;
  private readonly known = new Set<string>();
  private readonly zone: string;
  private readonly compiled: {
    id: string;
    recurrence: Recurrence | undefined;
    holds: (instant: number) => boolean;
  }[];
  private readonly recurrences: readonly Recurrence[];
  /** Fixed instants at which an answer changes, and minutes of the day at which one does. */
  private readonly instants: readonly number[];
  private readonly minutes: readonly number[];
  /** What the weekday and month of a day answer, by 12 times the weekday plus the month. */
  private readonly calendarKeys: readonly number[];
  private readonly today: number;
  /** The local days of the fixed instants, and the days on which what each tied date can be may change. */
  private readonly instantDays: readonly number[];
  private readonly criticalDays: readonly (readonly number[])[];

  constructor(
    private readonly tests: readonly Test[],
    catalogue: Catalogue,
    private readonly now: number,
    private readonly tied: readonly TiedDateDomain[],
    private readonly work: Work,
  ) {
    this.zone = catalogue.zone;
    const recurrences = new Map<string, Recurrence>();
    const instants = new Set<number>();
    const minutes = new Set<number>();
    this.compiled = tests.map((test) => {
      const attribute = catalogue.get(test.attribute);
      if (!attribute) throw new Error(`no attribute “${test.attribute}”`);
      const { question } = meaningOf(test, attribute, catalogue);
      let recurrence: Recurrence | undefined;
      if (question.kind === 'recurs') {
        const key = JSON.stringify([question.start, question.minutes, question.rule]);
        recurrence =
          recurrences.get(key) ?? new Recurrence(question.start, question.minutes, question.rule, this.zone);
        recurrences.set(key, recurrence);
      }
      if (question.kind === 'within')
        for (const { from, to } of question.ranges)
          for (const bound of [from, to])
            if (Number.isFinite(bound)) (attribute.type === 'time' ? minutes : instants).add(bound);
      const { holds } = compileTest(test, catalogue);
      return {
        id: test.attribute,
        recurrence,
        holds: (instant: number) => {
          const { day, minute } = localTime(instant, this.zone);
          return holds(momentFact(test.attribute, instant, day, minute), Facts.of([], day));
        },
      };
    });
    this.recurrences = [...recurrences.values()];
    this.instants = [...instants].filter((instant) => instant > now).sort((left, right) => left - right);
    this.minutes = [0, ...minutes].sort((left, right) => left - right);
    this.calendarKeys = this.keysOfCalendar();
    this.instantDays = this.instants.map((instant) => localDay(instant, this.zone));
    this.criticalDays = tied.map((domain) => domain.criticalDays());
    this.today = localDay(now, this.zone);
    this.look(
      now,
      tied.map((domain) => domain.stateOn(this.today)),
    );
    this.search();
  }

  /** What may be after the horizon, of which nothing is known but what the calendar says. */
  later(): readonly MomentCell[] {
    if (this.horizon === undefined) return [];
    const free = this.compiled.flatMap(({ recurrence }, at) =>
      recurrence && !repeats(recurrence) ? [at] : [],
    );
    if (free.length > mostFree) throw new TooManyValues('too many windows recur in different ways');
    const seen = new Set<string>();
    const later: MomentCell[] = [];
    for (const { outcomes } of this.cells)
      for (let choice = 0; choice < 1 << free.length; choice++) {
        const own = outcomes.map((holds, at) => {
          const place = free.indexOf(at);
          return place < 0 ? holds : ((choice >> place) & 1) === 1;
        });
        if (seen.has(own.join())) continue;
        seen.add(own.join());
        later.push({ instant: this.horizon, outcomes: own });
      }
    return later;
  }

  private search(): void {
    const { tests, tied, zone, today, recurrences } = this;
    if (tests.length === 0 && tied.length === 0) return;
    const last = localDay(latestInstant - dayLength, zone);
    const edges = new Set(
      [
        today,
        ...this.instantDays,
        ...recurrences.flatMap(({ rule, daysOpen }) => [rule.startDay - 1, rule.lastDay + daysOpen]),
        ...this.criticalDays.flat(),
      ].filter((day) => day >= today && day <= last),
    );
    const ranges: [from: number, to: number][] = [];
    for (const edge of edges) {
      const recurs = recurrences.some(({ rule }) => !rule.isPlain && rule.lastDay >= edge);
      ranges.push([edge, edge + (recurs ? calendarCycle : yearOfDays)]);
      if (!tied.some(({ isYearly }) => isYearly)) continue;
      ranges.push([edge, edge + generation]);
      for (const century of centuriesAfter(edge))
        if (century - decade > edge) ranges.push([century - decade, century + decade]);
    }
    const merged = mergeRanges(ranges);
    const keys = new KeyMaker();
    for (const [from, to] of merged) this.through(from, Math.min(to, last), keys);
    const [, end = today] = merged.at(-1) ?? [];
    if (end < last && recurrences.some((one) => !repeats(one)))
      this.horizon = instantsOf({ day: end, minute: 0 }, zone)[0] ?? end * dayLength;
  }

  /** Goes through some days, in order, and looks into each that differs from all before in what matters. */
  private through(first: number, last: number, keys: KeyMaker): void {
    const { recurrences, tied, zone, instantDays } = this;
    const daysOpen = Math.max(0, ...recurrences.map((one) => one.daysOpen));
    const byMinute = this.minutes.length > 1 || recurrences.length > 0;
    const changes = byMinute
      ? clockChanges((first - daysOpen - 2) * dayLength, (last + 3) * dayLength, zone).map(
          ({ at, before, after }) => ({
            day: localDay(at, zone),
            kind: `${localTime(at, zone).minute} ${after - before}`,
          }),
        )
      : [];
    const starts = recurrences.map((one) => new StartsBefore(one, first));
    let states: string[] | undefined;
    let [change, passed] = [0, 0];
    for (let day = first; day <= last; day++) {
      this.work.spend();
      if (states === undefined || this.mayDiffer(day)) states = tied.map((domain) => domain.stateOn(day));
      keys.begin(this.calendarKeys[12 * weekdayOf(day) + calendarDate(day).month - 1] ?? 0);
      for (const state of states) keys.addText(state);
      for (const one of starts) keys.add(one.on(day));
      while (passed < instantDays.length && (instantDays[passed] ?? 0) < day) passed++;
      keys.add(passed);
      // Of today only the rest is looked at, which says nothing about later days that are alike.
      if (instantDays[passed] === day || day === this.today) keys.add(day);
      while (change < changes.length && (changes[change]?.day ?? 0) < day - daysOpen - 1) change++;
      for (let at = change; (changes[at]?.day ?? last + 2) <= day + 1; at++)
        keys.addText(`${changes[at]?.kind} ${day - (changes[at]?.day ?? 0)}`);
      if (keys.isNew()) this.lookInto(day, states);
    }
  }

  /** Whether what tied dates can be may be another than on the day before. */
  private mayDiffer(day: number): boolean {
    return this.tied.some((domain, index) => domain.isYearly || isIn(this.criticalDays[index] ?? [], day));
  }

  /** Looks at every moment of a day at which an answer may change. */
  private lookInto(day: number, states: readonly string[]): void {
    const { zone } = this;
    const points = new Set<number>();
    for (const minute of this.minutes)
      for (const instant of instantsOf({ day, minute }, zone)) points.add(instant);
    const about = day * dayLength;
    for (const { at } of clockChanges(about - dayLength, about + 2 * dayLength, zone)) points.add(at);
    for (const one of this.recurrences)
      for (const { from, until } of one.windowsOn(day)) points.add(from).add(until);
    for (const instant of this.instants) if (Math.abs(instant - about) < 3 * dayLength) points.add(instant);
    // In order, so that each cell has its first instant.
    for (const point of [...points].sort((left, right) => left - right))
      if (localDay(point, zone) === day) this.look(point, states);
  }

  private look(instant: number, states: readonly string[]): void {
    if (instant < this.now || instant > latestInstant) return;
    this.work.spend(this.compiled.length);
    const outcomes = this.compiled.map(({ holds }) => holds(instant));
    const key = [outcomes.map(Number).join(''), ...states].join('|');
    if (this.known.has(key)) return;
    this.known.add(key);
    if (this.cells.length >= mostCells) throw new TooManyValues('too many moments have to be told apart');
    this.cells.push({ instant, outcomes });
  }

  private keysOfCalendar(): number[] {
    const tested = ['moment-weekday', 'moment-month', 'moment-season-north', 'moment-season-south'];
    const own = this.compiled.filter(({ id }) => tested.includes(id));
    const keys = new Map<string, number>();
    const found: number[] = [];
    const monday = dayNumber('2024-01-01') ?? 0;
    // In some days of 2024 and later every weekday falls into every month.
    for (let day = monday; day < monday + 7 * 366; day++) {
      const at = 12 * weekdayOf(day) + calendarDate(day).month - 1;
      if (found[at] !== undefined) continue;
      const noon = day * dayLength + dayLength / 2;
      const key = own.map(({ holds }) => Number(holds(noon))).join('');
      if (!keys.has(key)) keys.set(key, keys.size);
      found[at] = keys.get(key) ?? 0;
    }
    return found;
  }
}

/** Whether a window recurs as the calendar does, or comes to an end, so that 400 years show all of it. */
function repeats({ rule }: Recurrence): boolean {
  return Number.isFinite(rule.lastDay) || rule.isPlain || rule.repeatsWithCalendar;
}

function isIn(sorted: readonly number[], wanted: number): boolean {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] ?? 0) < wanted) low = middle + 1;
    else high = middle;
  }
  return sorted[low] === wanted;
}

/** The first days of the next years that are divisible by 100 and have no leap day, of each kind of 400 years one. */
function centuriesAfter(day: number): number[] {
  const { year } = calendarDate(day);
  const found: number[] = [];
  for (let century = Math.ceil(year / 100) * 100; found.length < 3 && century < 9900; century += 100)
    if (century % 400 !== 0) found.push(dayNumber(`${century}-01-01`) ?? day);
  return found;
}

/** On which of the days before a day a window began that can still be open, as days go by in order. */
class StartsBefore {
  private mask = 0;
  private readonly most: number;

  constructor(
    private readonly recurrence: Recurrence,
    first: number,
  ) {
    this.most = 2 ** (recurrence.daysOpen + 2);
    for (let day = first - recurrence.daysOpen; day <= first; day++) this.push(day);
  }

  /** A number for the starts up to the day after a day; days are asked for one after another. */
  on(day: number): number {
    this.push(day + 1);
    return this.mask;
  }

  private push(day: number): void {
    this.mask = (2 * this.mask + (this.recurrence.rule.startsOn(day) ? 1 : 0)) % this.most;
  }
}

/** Numbers for the different combinations of what matters about a day, and which of them are new. */
class KeyMaker {
  private readonly pairs = new Map<number, number>();
  private readonly texts = new Map<string, number>();
  private readonly seen = new Set<number>();
  private readonly numbers = new Map<number, number>();
  private key = 0;

  begin(first: number): void {
    this.key = first + 1;
  }

  add(part: number): void {
    let own = this.numbers.get(part);
    if (own === undefined) {
      own = this.numbers.size + 1;
      this.numbers.set(part, own);
    }
    this.join(own);
  }

  addText(part: string): void {
    let own = this.texts.get(part);
    if (own === undefined) {
      own = -1 - this.texts.size;
      this.texts.set(part, own);
    }
    this.join(own);
  }

  isNew(): boolean {
    const isNew = !this.seen.has(this.key);
    if (isNew) this.seen.add(this.key);
    return isNew;
  }

  private join(own: number): void {
    const pair = this.key * 2 ** 26 + own + 2 ** 25;
    let joined = this.pairs.get(pair);
    if (joined === undefined) {
      joined = 1000 + this.pairs.size;
      this.pairs.set(pair, joined);
    }
    this.key = joined;
  }
}

/** The last instant at which a test of the moment can hold by its fixed bounds or its rule; infinite where it has none. */
export function endOf(test: Test, catalogue: Catalogue): number {
  const attribute = catalogue.get(test.attribute);
  if (attribute?.source !== 'moment' || attribute.type !== 'date-time') return Number.POSITIVE_INFINITY;
  const { question } = meaningOf(test, attribute, catalogue);
  if (question.kind === 'recurs')
    return new Recurrence(question.start, question.minutes, question.rule, catalogue.zone).end;
  if (question.kind !== 'within') return Number.POSITIVE_INFINITY;
  return Math.max(...question.ranges.map(({ to }) => to));
}

/** When a window opens for the first time, where that is still to come; undefined otherwise. */
export function startOf(test: Test, catalogue: Catalogue, now: number): number | undefined {
  const attribute = catalogue.get(test.attribute);
  if (attribute?.source !== 'moment' || attribute.type !== 'date-time') return undefined;
  const { question } = meaningOf(test, attribute, catalogue);
  const start =
    question.kind === 'recurs'
      ? new Recurrence(question.start, question.minutes, question.rule, catalogue.zone).start
      : question.kind === 'within'
        ? Math.min(...question.ranges.map(({ from }) => from))
        : undefined;
  return start !== undefined && Number.isFinite(start) && start > now ? start : undefined;
}
