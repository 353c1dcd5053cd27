import type { Attribute, Value } from '../attributes/attribute.ts';
import { dayLength, dayNumber, instantOf, isoDate, localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { countryCodes } from '../attributes/countries.ts';
import { addressNumber, addressOfNumber } from '../attributes/networks.ts';
import { type Fact, valueOfFact } from '../attributes/viewer.ts';
import { planTest } from '../conditions/check.ts';
import type { Test } from '../conditions/condition.ts';
import { meaningOf, type Question } from '../conditions/meaning.ts';
import { acceptedTexts } from './texts.ts';

/** Most named values of one set that are told apart; their subsets are looked at one by one. */
export const mostNamedValues = 12;
/** Most different tests of one attribute; every diagram has as many branches as they tell values apart. */
export const mostTests = 250;

/** A part of an attribute's domain whose values all tests take alike. */
export interface Cell {
  /** One value of the cell, undefined for the cell of missing values. */
  readonly fact: Fact;
  /** The outcome of each test, in the order of the tests. */
  readonly outcomes: readonly boolean[];
}

/** Why an attribute can't be split exactly; shown instead of a result. */
export class TooManyValues extends Error {}

/** The outcomes of tests of one attribute for a value, told from today alone. */
export type Outcomes = (fact: Fact, today: number) => boolean[];

export function outcomesOf(tests: readonly Test[], catalogue: Catalogue): Outcomes {
  const plans = tests.map((test) => planTest(test, catalogue));
  return (fact, today) => plans.map(({ holds }) => holds(fact, { values: [], today }));
}

export function signature(outcomes: readonly boolean[]): string {
  let text = '';
  for (const outcome of outcomes) text += outcome ? '1' : '0';
  return text;
}

/**
 * Splits an attribute's domain into the finitely many cells that tests can tell apart. Missing is the first cell.
 * Every value that the attribute can hold falls into exactly one cell. Throws TooManyValues past a stated bound.
 *
 * @param tests of this attribute, none against another attribute's value
 * @param today the day number that relative dates count from
 */
export function cellsOf(
  attribute: Attribute,
  tests: readonly Test[],
  catalogue: Catalogue,
  today: number,
): Cell[] {
  if (tests.length > mostTests)
    throw new TooManyValues(`${attribute.label} is tested in more than ${mostTests} ways`);
  const outcomes = outcomesOf(tests, catalogue);
  const cells: Cell[] = [{ fact: undefined, outcomes: outcomes(undefined, today) }];
  const seen = new Set<string>();
  for (const fact of candidates(attribute, tests, catalogue, today)) {
    const own = outcomes(fact, today);
    const key = signature(own);
    if (seen.has(key)) continue;
    seen.add(key);
    cells.push({ fact, outcomes: own });
  }
  return cells;
}

/** Values that between them fall into every cell but that of missing values. */
export function candidates(
  attribute: Attribute,
  tests: readonly Test[],
  catalogue: Catalogue,
  today: number,
): Fact[] {
  const questions = tests.map((test) => meaningOf(test, attribute, catalogue).question);
  switch (attribute.type) {
    case 'yes-no':
      return [true, false];
    case 'choice':
      return attribute.choices.map((choice) => choice.id);
    case 'number':
      return numbers(questions.flatMap(bounds), attribute.whole === true);
    case 'date':
      return dates(questions, today);
    case 'date-time':
      return instants(questions, catalogue, today);
    case 'time':
      return numbers(questions.flatMap(bounds), true, 720).filter((minute) => minute >= 0 && minute < 1440);
    case 'text':
    case 'path':
      return acceptedTexts(questions, attribute.type === 'path');
    case 'country': {
      const named = constants(questions);
      const other = countryCodes.find((code) => !named.includes(code));
      return other === undefined ? named : [...named, other];
    }
    case 'address':
      return addresses(questions);
    case 'language':
      return languages(questions);
    case 'set':
      return subsets(attribute, questions);
  }
}

function constants(questions: readonly Question[]): string[] {
  return questions.flatMap((question) => (question.kind === 'among' ? [...question.values].map(String) : []));
}

function bounds(question: Question): number[] {
  return question.kind === 'within' ? question.ranges.flatMap(({ from, to }) => [from, to]) : [];
}

/** Each bound, what lies between neighbours, and both sides beyond; whole numbers have nothing between n and n + 1. */
function numbers(bounds: readonly number[], whole: boolean, start = 0): number[] {
  const sorted = [...new Set(bounds)].filter(Number.isFinite).sort((left, right) => left - right);
  const [lowest] = sorted;
  const highest = sorted.at(-1);
  if (lowest === undefined || highest === undefined) return [start];
  if (whole) {
    const near = sorted.flatMap((bound) => {
      const floor = Math.floor(bound);
      return [floor - 1, floor, floor + 1, floor + 2];
    });
    return [...new Set(near)].sort((left, right) => left - right);
  }
  const between = sorted.flatMap((bound, index) => {
    const next = sorted[index + 1];
    return next === undefined ? [bound] : [bound, bound + (next - bound) / 2];
  });
  const beyond = [lowest - Math.max(1, Math.abs(lowest)), highest + Math.max(1, Math.abs(highest))];
  // At the ends of what a number can be there may be nothing beyond.
  return [...beyond, ...between].filter(Number.isFinite).sort((left, right) => left - right);
}

const [firstDay, lastDay] = [dayNumber('0100-01-01') ?? 0, dayNumber('9999-12-31') ?? 0];

function dates(questions: readonly Question[], today: number): number[] {
  const base = numbers(
    [...questions.flatMap(bounds), ...questions.flatMap((one) => relativeDays(one, today))],
    true,
    today,
  );
  const anniversaries = questions.flatMap((question) =>
    question.kind === 'anniversary'
      ? [-1, 0, 1, question.days - 1, question.days, question.days + 1, question.days + 2]
      : [],
  );
  // Where a stretch between bounds meets another part of the year, its first such day after each bound is tried.
  const around = [...new Set(anniversaries)].flatMap((away) =>
    base.flatMap((day) => [sameDayOfYear(today + away, day), sameDayOfYear(today + away, day - 366)]),
  );
  return [...new Set([...base, ...around])].filter((day) => day >= firstDay && day <= lastDay);
}

function relativeDays(question: Question, today: number): number[] {
  return question.kind === 'days-from-today' ? [today + question.from, today + question.to] : [];
}

/** The first day from `from` on with the month and day of another. */
function sameDayOfYear(day: number, from: number): number {
  const wanted = isoDate(day).slice(5);
  const year = Number(isoDate(from).slice(0, 4));
  for (let at = year; at <= year + 8; at++) {
    const found = dayNumber(`${String(at).padStart(4, '0')}-${wanted}`);
    if (found !== undefined && found >= from) return found;
  }
  return from;
}

/** Both sides of every bound, in milliseconds. */
function instants(questions: readonly Question[], catalogue: Catalogue, today: number): number[] {
  const days = questions.flatMap((question) => {
    const [from, to] = relativeDays(question, today);
    return from === undefined || to === undefined ? [] : [from, to + 1];
  });
  const starts = days.map((day) => instantOf({ day, minute: 0 }, catalogue.zone));
  const all = [...questions.flatMap(bounds).filter(Number.isFinite), ...starts];
  if (all.length === 0) return [today * dayLength];
  return [...new Set(all.flatMap((bound) => [bound - 1, bound, bound + 1]))].sort(
    (left, right) => left - right,
  );
}

function addresses(questions: readonly Question[]): string[] {
  const edges = questions.flatMap((question) =>
    question.kind === 'networks'
      ? question.networks.flatMap(({ first, last }) => [first - 1n, first, last, last + 1n])
      : [],
  );
  return [addressNumber('0.0.0.0'), addressNumber('::'), ...edges]
    .map(addressOfNumber)
    .filter((address) => address !== undefined);
}

/** A tag that stands for no language, for private use (RFC 5646, 2.2.1). */
const noLanguage = 'qaa';

/** Every first preference with every set of further ones; tags beside those named are all alike. */
function languages(questions: readonly Question[]): string[][] {
  const named = [...new Set(questions.flatMap((one) => (one.kind === 'languages' ? one.tags : [])))];
  if (named.length > mostNamedValues)
    throw new TooManyValues(`more than ${mostNamedValues} languages are named`);
  return [noLanguage, ...named].flatMap((first) =>
    powerSet(named).map((rest) => [first, ...rest.filter((tag) => tag !== first)]),
  );
}

/** The admissible sets of named values, with and without a value that no test names. */
function subsets(attribute: Extract<Attribute, { type: 'set' }>, questions: readonly Question[]): string[][] {
  const named = [
    ...new Set(
      questions.flatMap((one) => (one.kind === 'has-any' || one.kind === 'has-all' ? one.values : [])),
    ),
  ];
  if (named.length > mostNamedValues)
    throw new TooManyValues(`more than ${mostNamedValues} values of ${attribute.label} are named`);
  const ids = attribute.choices.map((choice) => choice.id);
  const unnamed = ids.find((id) => !named.includes(id));
  const admissible = (set: readonly string[]) =>
    attribute.exclusiveGroups.every(
      (group) => set.filter((value) => group.members.includes(value)).length <= 1,
    );
  return powerSet(named.filter((id) => ids.includes(id)))
    .flatMap((set) => {
      if (unnamed === undefined) return [set];
      // A value that no test names may be kept out by its exclusive group; any other that fits will do.
      const further = ids.find((id) => !named.includes(id) && admissible([...set, id])) ?? unnamed;
      return [set, [...set, further]];
    })
    .filter((set) => set.length > 0 && admissible(set));
}

function powerSet(items: readonly string[]): string[][] {
  let sets: string[][] = [[]];
  for (const item of items) sets = sets.concat(sets.map((set) => [...set, item]));
  return sets;
}

/** A cell's value as it would be stored. */
export function valueOfCell(attribute: Attribute, { fact }: Cell): Value | undefined {
  return fact === undefined ? undefined : valueOfFact(attribute, fact);
}

/** Whether tests of an attribute compare it both with fixed days and with today, so that the moment ties them. */
export function isTiedToToday(attribute: Attribute, tests: readonly Test[], catalogue: Catalogue): boolean {
  if (attribute.type !== 'date' && attribute.type !== 'date-time') return false;
  const kinds = tests.map((test) => meaningOf(test, attribute, catalogue).question.kind);
  const relative = kinds.some((kind) => kind === 'days-from-today' || kind === 'anniversary');
  return relative && kinds.includes('within');
}

/**
 * The days, from today on, on which what a tied attribute can be against today may change: each fixed bound less each
 * span, and for days that come round every year the same in this year and the next two.
 */
export function criticalDays(
  attribute: Attribute,
  tests: readonly Test[],
  catalogue: Catalogue,
  today: number,
): number[] {
  const questions = tests.map((test) => meaningOf(test, attribute, catalogue).question);
  const toDay = (bound: number) => (attribute.type === 'date' ? bound : localDay(bound, catalogue.zone));
  const fixed = questions.flatMap(bounds).filter(Number.isFinite).map(toDay);
  const near = [-1, 0, 1, 2];
  const days = fixed.flatMap((day) =>
    questions.flatMap((question) => {
      if (question.kind === 'days-from-today')
        return [question.from, question.to].flatMap((span) => near.map((by) => day - span + by));
      if (question.kind !== 'anniversary') return [];
      return [0, question.days].flatMap((span) =>
        near.flatMap((by) => [0, 366, 731].map((later) => sameDayOfYear(day - span + by, today + later))),
      );
    }),
  );
  return [...new Set(days)].filter((day) => day > today).sort((left, right) => left - right);
}
