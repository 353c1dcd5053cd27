import type { Attribute } from '../attributes/attribute.ts';
import { instantOf, isoDate, timeText } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { addressNumber } from '../attributes/networks.ts';
import type { Sign } from '../attributes/patterns.ts';
import type { Facts } from '../attributes/viewer.ts';
import { planTest } from './check.ts';
import type { Condition, Test } from './condition.ts';
import { anniversaryDays, meaningOf, type Question, type Range } from './meaning.ts';

export interface SqlCondition {
  /** A boolean expression that is never NULL, with `?` for each bound value. */
  sql: string;
  values: (string | number)[];
}

export interface SqlSurroundings {
  readonly catalogue: Catalogue;
  readonly conditionOf: (audience: string) => Condition | undefined;
  /** What is asked besides the contact: visit, moment and item as these facts hold them, and their today. */
  readonly facts: Facts;
  /** The SQL boolean that says whether the contact counts as signed in. */
  readonly signedIn: string;
  /** The JSON column with the contact's values by attribute id. */
  readonly column: string;
}

/**
 * A condition as a parameterised MariaDB expression over the contacts' JSON column, with the outcome of
 * evaluation: every test stands in `IS TRUE`, since SQL's third truth value would make NOT inexact. Values of a wrong
 * type count as missing there too only if they are not stored, which the import sees to.
 * Throws an Error for a condition with problems.
 */
export function toSql(condition: Condition, surroundings: SqlSurroundings): SqlCondition {
  const values: (string | number)[] = [];
  const walk = (part: Condition): string => {
    switch (part.kind) {
      case 'test':
        return testSql(part, surroundings, values);
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
  const { catalogue, facts } = surroundings;
  const attribute = catalogue.get(test.attribute);
  if (!attribute) throw new Error(`no attribute “${test.attribute}”`);
  if (attribute.source === 'sign-in') return signInSql(test, surroundings.signedIn);
  const { negated, question } = meaningOf(test, attribute, catalogue);
  if (attribute.source !== 'contact') {
    if (question.kind === 'same-as' || question.kind === 'has-value-of')
      return ownSql(test, question.other, surroundings, bound);
    const { place, holds } = planTest(test, catalogue);
    return holds(facts.values[place], facts) ? 'TRUE' : 'FALSE';
  }
  const sql = `((${questionSql(question, attribute, surroundings, bound)}) IS TRUE)`;
  return negated ? `(NOT ${sql})` : sql;
}

function questionSql(
  question: Question,
  attribute: Attribute,
  { column, facts, catalogue }: SqlSurroundings,
  bound: (string | number)[],
): string {
  const bind = (value: string | number): string => {
    bound.push(value);
    return '?';
  };
  const list = (items: readonly (string | number)[]): string => items.map((item) => bind(item)).join(', ');
  const path = `$."${attribute.id}"`;
  const value = (): string => `JSON_VALUE(${column}, ${bind(path)})`;
  const held = (): string => `JSON_EXTRACT(${column}, ${bind(path)})`;
  switch (question.kind) {
    case 'known':
      return `JSON_EXISTS(${column}, ${bind(path)})`;
    case 'among': {
      const wanted = [...question.values];
      if (wanted.length === 0) return 'FALSE';
      if (attribute.type === 'yes-no') return `${value()} = ${bind(wanted[0] === true ? 1 : 0)}`;
      return `BINARY ${value()} IN (${list(wanted.map(String))})`;
    }
    case 'within':
      return question.ranges.map((range) => `(${rangeSql(range, attribute, value, bind)})`).join(' OR ');
    case 'days-from-today': {
      const [first, last] = [facts.today + question.from, facts.today + question.to];
      if (attribute.type === 'date')
        return `${value()} BETWEEN ${bind(isoDate(first))} AND ${bind(isoDate(last))}`;
      const start = (day: number) => new Date(instantOf({ day, minute: 0 }, catalogue.zone)).toISOString();
      return `(${value()} >= ${bind(start(first))} AND ${value()} < ${bind(start(last + 1))})`;
    }
    case 'anniversary':
      return `SUBSTRING(${value()}, 6) IN (${list([...anniversaryDays(facts.today, question.days)])})`;
    case 'has-all':
      return `JSON_CONTAINS(${held()}, ${bind(JSON.stringify(question.values))})`;
    case 'has-any':
      return `JSON_OVERLAPS(${held()}, ${bind(JSON.stringify(question.values))})`;
    case 'part': {
      const literal = question.text.replace(/[\\%_]/g, (sign) => `\\${sign}`);
      const pattern =
        question.where === 'contains'
          ? `%${literal}%`
          : question.where === 'starts'
            ? `${literal}%`
            : `%${literal}`;
      return `${value()} LIKE ${bind(pattern)} COLLATE utf8mb4_unicode_ci`;
    }
    case 'networks':
      return question.networks
        .map(({ first, last }) => {
          // HEX keeps the order of addresses, and its length keeps v4 and v6 apart.
          const digits = (number: bigint) => hexOf(number);
          const own = `HEX(INET6_ATON(${value()}))`;
          return `(LENGTH(${own}) = ${digits(first).length} AND HEX(INET6_ATON(${value()})) BETWEEN ${bind(digits(first))} AND ${bind(digits(last))})`;
        })
        .join(' OR ');
    case 'languages': {
      // Lookup shortens a range from its end, so a tag is found in those that begin with it.
      const fits = (subject: string) =>
        question.tags
          .flatMap((tag) => {
            const found = `LOWER(${subject}) = ${bind(tag.toLowerCase())}`;
            // A single letter at the end goes with what stands behind it, so such a tag is only found whole.
            if (/-[a-z0-9]$/i.test(tag)) return [found];
            return [found, `LOWER(${subject}) LIKE ${bind(`${tag.toLowerCase()}-%`)}`];
          })
          .join(' OR ');
      if (question.first)
        return `EXISTS (SELECT 1 FROM JSON_TABLE(${column}, ${literalPath(`${path}[0]`)} COLUMNS (tag VARCHAR(60) PATH '$')) AS spoken WHERE ${fits('spoken.tag')})`;
      return `EXISTS (SELECT 1 FROM JSON_TABLE(${column}, ${literalPath(`${path}[*]`)} COLUMNS (tag VARCHAR(60) PATH '$')) AS spoken WHERE ${fits('spoken.tag')})`;
    }
    case 'patterns':
      return question.patterns.map((signs) => `${value()} REGEXP ${bind(expressionOf(signs))}`).join(' OR ');
    case 'recurs':
    case 'same-as':
    case 'has-value-of':
      throw new Error(`no test of a contact: ${question.kind}`);
  }
}

/** A path of JSON_TABLE, which takes no bound value; ids of attributes hold nothing that would need escaping. */
function literalPath(path: string): string {
  if (!/^\$\."[a-z0-9-]+"\[[0*]\]$/.test(path)) throw new Error(`no path ${path}`);
  return `'${path}'`;
}

/** A pattern of a path as a regular expression, written here and never by a person. */
function expressionOf(signs: readonly Sign[]): string {
  const parts = signs.map((sign) => {
    if (sign === 'any') return '.*';
    return sign === 'segment' ? '[^/]*' : sign.char.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');
  });
  return `(?s-i)^${parts.join('')}\\z`;
}

const v6Offset = addressNumber('::');

function hexOf(number: bigint): string {
  return number < v6Offset
    ? number.toString(16).toUpperCase().padStart(8, '0')
    : (number - v6Offset).toString(16).toUpperCase().padStart(32, '0');
}

/** A bound as it is stored: text that sorts as the values do, or a number. */
function storedBound(number: number, attribute: Attribute): string | number {
  switch (attribute.type) {
    case 'date':
      return isoDate(number);
    case 'date-time':
      return new Date(number).toISOString();
    case 'time':
      return timeText(number);
    default:
      return number;
  }
}

function rangeSql(
  { from, to, withoutFrom, withoutTo }: Range,
  attribute: Attribute,
  value: () => string,
  bind: (value: string | number) => string,
): string {
  const subject = () => (attribute.type === 'number' ? `CAST(${value()} AS DOUBLE)` : value());
  const sides: string[] = [];
  if (Number.isFinite(from))
    sides.push(`${subject()} ${withoutFrom ? '>' : '>='} ${bind(storedBound(from, attribute))}`);
  if (Number.isFinite(to))
    sides.push(`${subject()} ${withoutTo ? '<' : '<='} ${bind(storedBound(to, attribute))}`);
  return sides.join(' AND ') || 'FALSE';
}

/** An item's field against the contact's own value: the item is given, so the contact's value is what is asked. */
function ownSql(
  test: Test,
  other: string,
  { catalogue, facts, column }: SqlSurroundings,
  bound: (string | number)[],
): string {
  const fact = facts.values[catalogue.indexOf(test.attribute) ?? -1];
  const wanted = typeof fact === 'string' ? [fact] : Array.isArray(fact) ? fact : [];
  if (wanted.length === 0) return 'FALSE';
  bound.push(`$."${other}"`, ...wanted);
  return `((BINARY JSON_VALUE(${column}, ?) IN (${wanted.map(() => '?').join(', ')})) IS TRUE)`;
}

function signInSql(test: Test, signedIn: string): string {
  if (test.op === 'is-yes') return signedIn;
  if (test.op === 'is-no') return `(NOT ${signedIn})`;
  return test.op === 'has-value' ? 'TRUE' : 'FALSE';
}
