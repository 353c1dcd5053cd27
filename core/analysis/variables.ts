import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, leavesOf, type Test, test as testOf } from '../conditions/condition.ts';
import { type Cell, cellsOf, criticalDays, isTiedToToday, signature } from './cells.ts';
import { type MomentCell, momentCells } from './moments.ts';

/** What viewers are told apart by, each with the tests asked of it and the cells that these split it into. */
export type Variable = AttributeVariable | MomentVariable | SameVariable;

export interface AttributeVariable {
  readonly kind: 'attribute';
  readonly attribute: Attribute;
  readonly tests: readonly Test[];
  readonly cells: readonly Cell[];
  /** Whether it is a date that is compared with fixed days and with today. */
  readonly tied: boolean;
}
export interface MomentVariable {
  readonly kind: 'moment';
  readonly tests: readonly Test[];
  readonly cells: readonly MomentCell[];
}
/** Whether an item's text is the same as the viewer's own: no, yes. */
export interface SameVariable {
  readonly kind: 'same';
  readonly attribute: Attribute;
  readonly other: Attribute;
}

export interface Variables {
  readonly variables: readonly Variable[];
  /** For a cell of the moment and a date tied to it: which of the date's cells there can be then. */
  readonly possibleThen: (moment: number, variable: Variable) => boolean[] | undefined;
}

export const momentName = 'the moment';
const noAttribute: Attribute = { id: 'none', source: 'item', type: 'text', label: '', description: '' };

/** What a variable is found by: an attribute's id, or a name of its own. */
export function nameOf(variable: Variable): string {
  if (variable.kind === 'moment') return momentName;
  return variable.kind === 'same' ? `${variable.attribute.id} = ${variable.other.id}` : variable.attribute.id;
}

function putTest(tests: Map<string, Map<string, Test>>, attribute: string, test: Test): void {
  let own = tests.get(attribute);
  if (!own) {
    own = new Map();
    tests.set(attribute, own);
  }
  own.set(keyOf(test), test);
}

const keys = new WeakMap<Test, string>();

/** Stands for what a test asks, apart from its attribute. */
export function keyOf(test: Test): string {
  let key = keys.get(test);
  if (key === undefined) {
    key = JSON.stringify([test.op, test.values]);
    keys.set(test, key);
  }
  return key;
}

/** The tests that conditions ask, by attribute, with those of the audiences that they build on. */
export class AskedTests {
  readonly byAttribute = new Map<string, Map<string, Test>>();

  /** @param conditionOf what an audience asks; undefined for one that is gone or has an error */
  constructor(
    private readonly catalogue: Catalogue,
    private readonly conditionOf: (audience: string) => Condition | undefined,
  ) {}

  collect(condition: Condition): void {
    for (const leaf of leavesOf(condition)) {
      if (leaf.kind === 'audience') {
        const inner = this.conditionOf(leaf.audience);
        if (inner) this.collect(inner);
        continue;
      }
      if (leaf.op === 'includes-own') {
        this.collect(spelledOut(leaf, this.catalogue));
        continue;
      }
      putTest(this.byAttribute, leaf.attribute, leaf);
      // The viewer's own text becomes a variable too, even where nothing else asks for it.
      if (leaf.op === 'same-as')
        putTest(this.byAttribute, String(leaf.values[0]), testOf(String(leaf.values[0]), 'has-value'));
    }
  }
}

/** "Includes the viewer's own tier" as what it is for each tier. */
export function spelledOut({ attribute, values }: Test, catalogue: Catalogue): Condition {
  const other = catalogue.get(String(values[0]));
  return any(
    ...choicesOf(other ?? noAttribute)
      .filter(({ id }) => choicesOf(catalogue.get(attribute) ?? noAttribute).some((own) => own.id === id))
      .map(({ id }) =>
        all(testOf(String(values[0]), 'is-one-of', id), testOf(attribute, 'includes-any', id)),
      ),
  );
}

/** A date that is compared with fixed days and with today. */
type Tied = Pick<AttributeVariable, 'attribute' | 'tests'>;

/**
 * The variables of some tests. Throws TooManyValues where an attribute can't be split exactly.
 *
 * @param tests by attribute, see {@link AskedTests}
 * @param instant now, in milliseconds since 1970 UTC
 */
export function variablesOf(
  tests: ReadonlyMap<string, ReadonlyMap<string, Test>>,
  catalogue: Catalogue,
  instant: number,
): Variables {
  const today = localDay(instant, catalogue.zone);
  const variables: AttributeVariable[] = [];
  const momentTests: Test[] = [];
  const tied: Tied[] = [];
  const same: SameVariable[] = [];
  for (const [id, own] of tests) {
    const attribute = catalogue.get(id);
    if (!attribute || attribute.source === 'sign-in') continue;
    const list = [...own.values()];
    if (attribute.source === 'moment') momentTests.push(...list);
    else {
      for (const test of list) {
        const other = test.op === 'same-as' ? catalogue.get(String(test.values[0])) : undefined;
        if (other) same.push({ kind: 'same', attribute, other });
      }
      if (isTiedToToday(attribute, list, catalogue)) tied.push({ attribute, tests: list });
    }
  }
  const shared = sharedTests(same, tests);
  for (const [id, own] of tests) {
    const attribute = catalogue.get(id);
    if (!attribute || attribute.source === 'sign-in' || attribute.source === 'moment') continue;
    const list = (shared.get(id) ?? [...own.values()]).filter((test) => test.op !== 'same-as');
    const isTied = tied.some((one) => one.attribute === attribute);
    const cells = cellsOf(attribute, list, catalogue, today);
    variables.push({ kind: 'attribute', attribute, tests: list, cells, tied: isTied });
  }
  if (momentTests.length === 0 && tied.length === 0)
    return { variables: [...variables, ...same], possibleThen: () => undefined };
  const timed = withMoments(variables, momentTests, tied, catalogue, instant);
  return { ...timed, variables: [...timed.variables, ...same] };
}

/**
 * The variables with that of the moment before them. What a date that is compared with fixed days and with today can
 * be changes as time passes: moments that differ in it are cells of their own, and the date gets a cell for each
 * outcome that any moment allows; a constraint keeps the two in step.
 */
function withMoments(
  variables: readonly AttributeVariable[],
  momentTests: readonly Test[],
  tied: readonly Tied[],
  catalogue: Catalogue,
  instant: number,
): Variables {
  const now = localDay(instant, catalogue.zone);
  const allowedBy = tied.map(({ attribute, tests }) => {
    const known = new Map<number, Map<string, Cell>>();
    return (today: number): Map<string, Cell> => {
      const found = known.get(today);
      if (found) return found;
      const cells = cellsOf(attribute, tests, catalogue, today).slice(1);
      const made = new Map(cells.map((cell) => [signature(cell.outcomes), cell]));
      known.set(today, made);
      return made;
    };
  });
  const days = [
    now,
    ...tied.flatMap(({ attribute, tests }) => criticalDays(attribute, tests, catalogue, now)),
  ].sort((left, right) => left - right);
  const names = new Map(
    days.map((day) => [day, allowedBy.map((allowed) => [...allowed(day).keys()].sort().join()).join('|')]),
  );
  // Between two days on which it may change, it does not.
  const nameOfDay = (today: number) => names.get(days.findLast((day) => day <= today) ?? now) ?? '';
  const cells = momentCells(momentTests, catalogue, instant, {
    nameOf: tied.length === 0 ? () => '' : nameOfDay,
    days,
  });
  const allowedOf = (variable: Variable) =>
    variable.kind === 'attribute'
      ? allowedBy[tied.findIndex((one) => one.attribute === variable.attribute)]
      : undefined;
  const widened = variables.map((variable): AttributeVariable => {
    const allowed = allowedOf(variable);
    if (!allowed) return variable;
    const merged = new Map<string, Cell>();
    for (const cell of cells)
      for (const [key, own] of allowed(localDay(cell.instant, catalogue.zone)))
        if (!merged.has(key)) merged.set(key, own);
    return { ...variable, cells: [...variable.cells.slice(0, 1), ...merged.values()] };
  });
  return {
    variables: [{ kind: 'moment', tests: momentTests, cells }, ...widened],
    possibleThen(moment, variable) {
      const allowed = allowedOf(variable);
      if (variable.kind !== 'attribute' || !allowed) return undefined;
      const today = localDay(cells[moment]?.instant ?? instant, catalogue.zone);
      return variable.cells.map((cell, index) => index === 0 || allowed(today).has(signature(cell.outcomes)));
    },
  };
}

/**
 * For texts that are compared with each other, the tests of all of them, so that equal texts lie in equal cells; and
 * one for each constant by itself, so that a cell with a constant holds nothing else.
 */
function sharedTests(
  same: readonly SameVariable[],
  tests: ReadonlyMap<string, ReadonlyMap<string, Test>>,
): Map<string, Test[]> {
  const ids = new Set(same.flatMap(({ attribute, other }) => [attribute.id, other.id]));
  const shared = new Map<string, Test[]>();
  if (ids.size === 0) return shared;
  const every = [...ids]
    .flatMap((id) => [...(tests.get(id)?.values() ?? [])])
    .filter((test) => test.op !== 'same-as');
  const constants = new Set(
    every.flatMap((test) => (test.op === 'is-one-of' || test.op === 'is-none-of' ? test.values : [])),
  );
  for (const id of ids) {
    const own = new Map<string, Test>();
    for (const test of every) own.set(keyOf(test), { ...test, attribute: id });
    for (const constant of constants) {
      const alone = testOf(id, 'is-one-of', constant);
      own.set(keyOf(alone), alone);
    }
    shared.set(id, [...own.values()]);
  }
  return shared;
}
