import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { dayNumber, isoDate } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Condition, Test } from './condition.ts';

export interface SqlCondition {
  /** A boolean expression that is never NULL, with `?` for each bound value. */
  sql: string;
  values: (string | number)[];
}

export interface SqlSurroundings {
  readonly catalogue: Catalogue;
  readonly conditionOf: (audience: string) => Condition | undefined;
  /** The local day that relative dates count from. */
  readonly today: number;
  /** The SQL boolean that says whether the contact counts as signed in. */
  readonly signedIn: string;
  /** The JSON column with the contact's values by attribute id. */
  readonly column: string;
}

/**
 * A condition as a parameterised MariaDB expression over the contacts' JSON column, with the outcome of
 * evaluation: every test stands in `IS TRUE`, since SQL's third truth value would make NOT inexact.
 * Throws an Error for a condition with problems.
 */
export function toSql(condition: Condition, surroundings: SqlSurroundings): SqlCondition {
  const values: (string | number)[] = [];
  const walk = (part: Condition): string => {
    switch (part.kind) {
      case 'test':
        return `((${testSql(part, surroundings, values)}) IS TRUE)`;
      case 'audience': {
        const inner = surroundings.conditionOf(part.audience);
        if (!inner) throw new Error(`no audience “${part.audience}”`);
        return walk(inner);
      }
      case 'not':
        return `(NOT ${walk(part.of)})`;
      case 'all':
        return part.of.length === 0 ? 'TRUE' : `(${part.of.map(walk).join(' AND ')})`;
      case 'any':
        return part.of.length === 0 ? 'FALSE' : `(${part.of.map(walk).join(' OR ')})`;
    }
  };
  return { sql: walk(condition), values };
}

function testSql(test: Test, surroundings: SqlSurroundings, bound: (string | number)[]): string {
  const attribute = surroundings.catalogue.get(test.attribute);
  if (!attribute) throw new Error(`no attribute “${test.attribute}”`);
  if (attribute.source === 'sign-in') return signInSql(test, surroundings.signedIn);
  const path = `$."${test.attribute}"`;
  const bind = (value: string | number): string => {
    bound.push(value);
    return '?';
  };
  const scalar = (): string => `JSON_VALUE(${surroundings.column}, ${bind(path)})`;
  const exact = (): string => `BINARY ${scalar()}`;
  const list = (items: readonly (string | number)[]): string => items.map((item) => bind(item)).join(', ');
  const exists = (): string => `JSON_EXISTS(${surroundings.column}, ${bind(path)})`;
  if (test.op === 'has-value') return exists();
  if (test.op === 'has-no-value') return `NOT ${exists()}`;
  switch (attribute.type) {
    case 'yes-no':
      return `${scalar()} = ${bind(test.op === 'is-yes' ? 1 : 0)}`;
    case 'choice':
    case 'text':
      return wordSql(test, attribute, { exact, scalar, list, bind });
    case 'set': {
      const held = () => `JSON_EXTRACT(${surroundings.column}, ${bind(path)})`;
      const wanted = JSON.stringify(test.values);
      if (test.op === 'includes-all') return `JSON_CONTAINS(${held()}, ${bind(wanted)})`;
      const overlap = `JSON_OVERLAPS(${held()}, ${bind(wanted)})`;
      return test.op === 'includes-any' ? overlap : `NOT COALESCE(${overlap}, FALSE)`;
    }
    case 'number':
      return rangeSql(test, () => `CAST(${scalar()} AS DOUBLE)`, test.values, bind);
    case 'date':
      return dateSql(test, scalar, surroundings.today, bind);
  }
}

interface Pieces {
  exact: () => string;
  scalar: () => string;
  list: (items: readonly (string | number)[]) => string;
  bind: (value: string | number) => string;
}

function wordSql(test: Test, attribute: Attribute, { exact, scalar, list, bind }: Pieces): string {
  const order = choicesOf(attribute).map((choice) => choice.id);
  const [first = '', second = ''] = test.values.map(String);
  const oneOf = (items: readonly (string | number)[]) =>
    items.length === 0 ? 'FALSE' : `${exact()} IN (${list(items)})`;
  const like = (pattern: string) => `${scalar()} LIKE ${bind(pattern)} COLLATE utf8mb4_unicode_ci`;
  const literal = first.replace(/[\\%_]/g, (sign) => `\\${sign}`);
  switch (test.op) {
    case 'is-one-of':
      return oneOf(test.values);
    case 'is-none-of':
      return `NOT COALESCE(${oneOf(test.values)}, FALSE)`;
    case 'at-least':
      return oneOf(order.slice(order.indexOf(first)));
    case 'at-most':
      return oneOf(order.slice(0, order.indexOf(first) + 1));
    case 'between':
      return oneOf(order.slice(order.indexOf(first), order.indexOf(second) + 1));
    case 'contains':
      return like(`%${literal}%`);
    case 'starts-with':
      return like(`${literal}%`);
    case 'ends-with':
      return like(`%${literal}`);
    default:
      throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  }
}

function dateSql(
  test: Test,
  scalar: () => string,
  today: number,
  bind: (value: string | number) => string,
): string {
  const days = Number(test.values[0]);
  if (test.op === 'within-last')
    return `${scalar()} BETWEEN ${bind(isoDate(today - days))} AND ${bind(isoDate(today))}`;
  if (test.op === 'within-next')
    return `${scalar()} BETWEEN ${bind(isoDate(today))} AND ${bind(isoDate(today + days))}`;
  for (const value of test.values)
    if (dayNumber(String(value)) === undefined) throw new Error(`no date “${value}”`);
  return rangeSql(test, scalar, test.values, bind);
}

const comparison: Record<string, string> = {
  equals: '=',
  on: '=',
  'at-least': '>=',
  'at-most': '<=',
  'more-than': '>',
  after: '>',
  'fewer-than': '<',
  before: '<',
};

function rangeSql(
  test: Test,
  subject: () => string,
  values: readonly (string | number)[],
  bind: (value: string | number) => string,
): string {
  const [first = '', second = ''] = values;
  if (test.op === 'between') return `${subject()} BETWEEN ${bind(first)} AND ${bind(second)}`;
  const sign = comparison[test.op];
  if (!sign) throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  return `${subject()} ${sign} ${bind(first)}`;
}

function signInSql(test: Test, signedIn: string): string {
  if (test.op === 'is-yes') return signedIn;
  if (test.op === 'is-no') return `NOT ${signedIn}`;
  return test.op === 'has-value' ? 'TRUE' : 'FALSE';
}
