import type { Attribute, Value } from '../attributes/attribute.ts';
import { dayNumber, isoDate } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Fact } from '../attributes/viewer.ts';
import { plan } from '../conditions/check.ts';
import type { Test } from '../conditions/condition.ts';

/** Most named values of one set that are told apart; their subsets are looked at one by one. */
export const mostNamedValues = 12;
const mostTextParts = 8;

/** A part of an attribute's domain whose values all tests take alike. */
export interface Cell {
  /** One value of the cell, undefined for the cell of missing values. */
  readonly fact: Fact;
  /** The outcome of each test, in the order of the tests. */
  readonly outcomes: readonly boolean[];
}

/** Why an attribute can't be split exactly; shown instead of a result. */
export class TooManyValues extends Error {}

/**
 * Splits an attribute's domain into the finitely many cells that tests can tell apart. Missing is the first cell.
 * Every value that the attribute can hold falls into exactly one cell. Throws TooManyValues past a stated bound.
 *
 * @param today the day number that relative dates count from
 */
export function cellsOf(
  attribute: Attribute,
  tests: readonly Test[],
  catalogue: Catalogue,
  today: number,
): Cell[] {
  const place = catalogue.indexOf(attribute.id) ?? 0;
  const checks = tests.map((test) => plan(test, catalogue, () => undefined));
  const values: Fact[] = new Array(catalogue.attributes.length).fill(undefined);
  const outcomesOf = (fact: Fact): boolean[] => {
    values[place] = fact;
    return checks.map((check) => check({ values, today }, () => false));
  };
  const cells: Cell[] = [{ fact: undefined, outcomes: outcomesOf(undefined) }];
  const seen = new Set<string>();
  for (const fact of candidates(attribute, tests, today)) {
    const outcomes = outcomesOf(fact);
    const signature = outcomes.map(Number).join('');
    if (seen.has(signature)) continue;
    seen.add(signature);
    cells.push({ fact, outcomes });
  }
  return cells;
}

/** Values that between them fall into every cell. */
function candidates(attribute: Attribute, tests: readonly Test[], today: number): Fact[] {
  switch (attribute.type) {
    case 'yes-no':
      return [true, false];
    case 'choice':
      return attribute.choices.map((choice) => choice.id);
    case 'number':
      return numbers(
        tests.flatMap((test) => test.values.map(Number)),
        attribute.whole === true,
      );
    case 'date':
      return numbers(
        tests.flatMap((test) => dateBounds(test, today)),
        true,
        today,
      );
    case 'text':
      return texts(tests);
    case 'set':
      return subsets(attribute, tests);
  }
}

function dateBounds(test: Test, today: number): number[] {
  if (test.op === 'within-last') return [today - Number(test.values[0]), today];
  if (test.op === 'within-next') return [today, today + Number(test.values[0])];
  return test.values.map((value) => dayNumber(String(value)) ?? 0);
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
  return [lowest - Math.max(1, Math.abs(lowest)), ...between, highest + Math.max(1, Math.abs(highest))];
}

/** The named texts, texts made of every combination of the parts that are looked for, and one unlike all. */
function texts(tests: readonly Test[]): string[] {
  const named = tests
    .filter(({ op }) => op === 'is-one-of' || op === 'is-none-of')
    .flatMap(({ values }) => values.map(String));
  const partsOf = (op: string) => [
    ...new Set(tests.filter((test) => test.op === op).map((test) => String(test.values[0]))),
  ];
  const [starts, middles, ends] = [partsOf('starts-with'), partsOf('contains'), partsOf('ends-with')];
  if (starts.length + middles.length + ends.length > mostTextParts)
    throw new TooManyValues(`more than ${mostTextParts} parts of one text are looked for`);
  const made = ['', ...starts].flatMap((start) =>
    powerSet(middles).flatMap((some) => ['', ...ends].map((end) => [start, ...some, end])),
  );
  const other = '\uE000';
  return [...named, ...made.flatMap((parts) => [parts.join(''), parts.join(other)]), other].filter(
    (text) => text !== '',
  );
}

/** The admissible sets of named values, with and without a value that no test names. */
function subsets(attribute: Extract<Attribute, { type: 'set' }>, tests: readonly Test[]): string[][] {
  const named = [...new Set(tests.flatMap((test) => test.values.map(String)))];
  if (named.length > mostNamedValues)
    throw new TooManyValues(`more than ${mostNamedValues} values of ${attribute.label} are named`);
  const ids = attribute.choices.map((choice) => choice.id);
  const unnamed = ids.find((id) => !named.includes(id));
  const admissible = (set: readonly string[]) =>
    attribute.exclusiveGroups.every(
      (group) => set.filter((value) => group.members.includes(value)).length <= 1,
    );
  return powerSet(named.filter((id) => ids.includes(id)))
    .flatMap((set) => (unnamed === undefined ? [set] : [set, [...set, unnamed]]))
    .filter((set) => set.length > 0 && admissible(set));
}

function powerSet(items: readonly string[]): string[][] {
  let sets: string[][] = [[]];
  for (const item of items) sets = sets.concat(sets.map((set) => [...set, item]));
  return sets;
}

/** A cell's value as a contact would hold it. */
export function valueOfCell(attribute: Attribute, { fact }: Cell): Value | undefined {
  if (fact === undefined) return undefined;
  if (attribute.type === 'date' && typeof fact === 'number') return isoDate(fact);
  return typeof fact === 'object' ? [...fact] : fact;
}
