import type { Attribute } from '../attributes/attribute.ts';
import { isoDate, timeText } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { instantsOfDays } from '../attributes/clock-changes.ts';
import { addressNumber } from '../attributes/networks.ts';
import type { Sign } from '../attributes/patterns.ts';
import { fold } from '../attributes/text-folding.ts';
import type { Facts } from '../attributes/viewer.ts';
import { type Condition, leavesOf, type Test } from './condition.ts';
import { compileTest } from './evaluate.ts';
import { anniversaryDays, meaningOf, type Question, type Range } from './meaning.ts';

export interface SqlCondition {
  /** A boolean expression that is never NULL, with `?` for each bound value. */
  sql: string;
  values: (string | number)[];
  /**
   * What has to stand behind `FROM contacts` for the expression, empty in most cases: audiences that are asked for more
   * than once, worked out once for each contact.
   */
  join: string;
  joinValues: (string | number)[];
}

export interface SqlSurroundings {
  readonly catalogue: Catalogue;
  readonly conditionOf: (audience: string) => Condition | undefined;
  /** What is asked besides the contact: visit, moment and item as these facts hold them, and their today. */
  readonly facts: Facts;
  /** The SQL boolean that says whether the contact counts as signed in. */
  readonly signedIn: string;
  readonly columns: ContactColumns;
  /** The name of the joined table, for several conditions in one statement; `shared` unless given. */
  readonly joinedAs?: string;
}

/** Where a contact's values are found; all of one table, `contacts`. */
export interface ContactColumns {
  readonly id: string;
  readonly email: string;
  /** JSON, the values by attribute id. */
  readonly values: string;
  /** JSON, by attribute id each text in the form in which texts are compared, where that is another one; see fold(). */
  readonly folded: string;
}

/**
 * A condition as a parameterised MariaDB expression over the contacts' columns, with the outcome of evaluation: every
 * test stands in `IS TRUE`, since SQL's third truth value would make NOT inexact. Values of a wrong type count as missing
 * there too only if they are not stored, which every way in sees to. The expression grows with the conditions, not with
 * the number of ways in which audiences are reached. Throws an Error for a condition with problems.
 */
export function toSql(condition: Condition, surroundings: SqlSurroundings): SqlCondition {
  return new Writer(condition, surroundings).write();
}

/** Writes one condition; audiences that it reaches more than once become columns of a derived table. */
class Writer {
  /** Layer and column of each shared audience; those of a layer build on earlier ones only. */
  private readonly shared = new Map<string, { layer: number; column: string }>();
  private readonly conditions = new Map<string, Condition>();
  private readonly joinedAs: string;

  constructor(
    private readonly root: Condition,
    private readonly surroundings: SqlSurroundings,
  ) {
    this.joinedAs = surroundings.joinedAs ?? 'shared';
    for (const id of this.reachedTwice()) this.shared.set(id, { layer: 0, column: `s${this.shared.size}` });
    for (const [id, place] of this.shared) place.layer = this.layerOf(id, new Map());
  }

  write(): SqlCondition {
    const values: (string | number)[] = [];
    const sql = this.expression(this.root, (test) => testSql(test, this.surroundings, values), 'shared');
    return { sql, values, ...this.derived() };
  }

  /**
   * A chain of derived tables. The innermost answers every test that shared audiences ask, the others work out one layer
   * of audiences each from the columns of the one before. LIMIT keeps the server from merging them into one expression.
   */
  private derived(): Pick<SqlCondition, 'join' | 'joinValues'> {
    if (this.shared.size === 0) return { join: '', joinValues: [] };
    const joinValues: (string | number)[] = [];
    const tests = new Map<string, string>();
    const answers: string[] = [];
    const answered = (test: Test): string => {
      const key = JSON.stringify([test.attribute, test.op, test.values]);
      let column = tests.get(key);
      if (column === undefined) {
        column = `t${tests.size}`;
        tests.set(key, column);
        answers.push(`${testSql(test, this.surroundings, joinValues)} AS ${column}`);
      }
      return column;
    };
    const layers: string[][] = [];
    for (const [id, { layer, column }] of this.shared) {
      const expression = this.expression(this.conditionOf(id), answered, 'before');
      const own = layers[layer - 1] ?? [];
      own.push(`${expression} AS ${column}`);
      layers[layer - 1] = own;
    }
    const all = 'LIMIT 18446744073709551615';
    let from = `(SELECT ${[`${this.surroundings.columns.id} AS id`, ...answers].join(', ')} FROM contacts ${all})`;
    for (const [index, columns] of layers.entries())
      from = `(SELECT before${index}.*, ${columns.join(', ')} FROM ${from} AS before${index} ${all})`;
    return {
      join: ` JOIN ${from} AS ${this.joinedAs} ON ${this.joinedAs}.id = ${this.surroundings.columns.id}`,
      joinValues,
    };
  }

  private expression(
    condition: Condition,
    testOf: (test: Test) => string,
    table: 'shared' | 'before',
  ): string {
    const walk = (part: Condition): string => {
      switch (part.kind) {
        case 'test':
          return testOf(part);
        case 'audience': {
          const shared = this.shared.get(part.audience);
          if (shared) return table === 'shared' ? `${this.joinedAs}.${shared.column}` : shared.column;
          return walk(this.conditionOf(part.audience));
        }
        case 'not':
          return `(NOT ${walk(part.of)})`;
        case 'all':
          return part.of.length === 0 ? 'TRUE' : `(${part.of.map(walk).join(' AND ')})`;
        case 'any':
          return part.of.length === 0 ? 'FALSE' : `(${part.of.map(walk).join(' OR ')})`;
      }
    };
    return walk(condition);
  }

  /** The audiences that are named in more than one place, each condition read once. */
  private reachedTwice(): string[] {
    const named = new Map<string, number>();
    const open = [this.root];
    for (let next = open.pop(); next; next = open.pop())
      for (const leaf of leavesOf(next)) {
        if (leaf.kind !== 'audience') continue;
        const times = named.get(leaf.audience) ?? 0;
        named.set(leaf.audience, times + 1);
        if (times === 0) open.push(this.conditionOf(leaf.audience));
      }
    // A single test is as short as the column that would stand for it.
    return [...named.keys()].filter((id) => (named.get(id) ?? 0) > 1 && this.conditionOf(id).kind !== 'test');
  }

  /** One more than the highest layer of the shared audiences that an audience reaches. */
  private layerOf(id: string, known: Map<string, number>): number {
    const found = known.get(id);
    if (found !== undefined) return found;
    let layer = 0;
    for (const leaf of leavesOf(this.conditionOf(id)))
      if (leaf.kind === 'audience') layer = Math.max(layer, this.layerOf(leaf.audience, known));
    if (this.shared.has(id)) layer++;
    known.set(id, layer);
    return layer;
  }

  private conditionOf(id: string): Condition {
    const known = this.conditions.get(id) ?? this.surroundings.conditionOf(id);
    if (!known) throw new Error(`no audience “${id}”`);
    this.conditions.set(id, known);
    return known;
  }
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
    const { place, holds } = compileTest(test, catalogue);
    return holds(facts.at(place), facts) ? 'TRUE' : 'FALSE';
  }
  const sql = `((${questionSql(question, attribute, surroundings, bound)}) IS TRUE)`;
  return negated ? `(NOT ${sql})` : sql;
}

/** The value of a contact's attribute, undefined as NULL. */
function valueSql(id: string, { email, values }: ContactColumns, bind: (value: string) => string): string {
  return id === 'email' ? email : `JSON_VALUE(${values}, ${bind(pathOf(id))})`;
}

/** The bytes of a contact's text as it is compared. */
function foldedSql(id: string, columns: ContactColumns, bind: (value: string) => string): string {
  const { folded } = columns;
  return `BINARY IFNULL(JSON_VALUE(${folded}, ${bind(pathOf(id))}), ${valueSql(id, columns, bind)})`;
}

function pathOf(id: string): string {
  return `$."${id}"`;
}

function questionSql(
  question: Question,
  attribute: Attribute,
  { columns, facts, catalogue }: SqlSurroundings,
  bound: (string | number)[],
): string {
  const column = columns.values;
  const bind = (value: string | number): string => {
    bound.push(value);
    return '?';
  };
  const list = (items: readonly (string | number)[]): string => items.map((item) => bind(item)).join(', ');
  const path = pathOf(attribute.id);
  const value = (): string => valueSql(attribute.id, columns, bind);
  const folded = (): string => foldedSql(attribute.id, columns, bind);
  const held = (): string => `JSON_EXTRACT(${column}, ${bind(path)})`;
  switch (question.kind) {
    case 'known':
      return attribute.id === 'email' ? `${columns.email} <> ''` : `JSON_EXISTS(${column}, ${bind(path)})`;
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
      return instantsOfDays(first, last, catalogue.zone)
        .map(({ from, until }) => {
          const [start, end] = [new Date(from).toISOString(), new Date(until).toISOString()];
          return `(${value()} >= ${bind(start)} AND ${value()} < ${bind(end)})`;
        })
        .join(' OR ');
    }
    case 'anniversary':
      return `SUBSTRING(${value()}, 6) IN (${list([...anniversaryDays(facts.today, question.days)])})`;
    case 'has-all':
      return `JSON_CONTAINS(${held()}, ${bind(JSON.stringify(question.values))})`;
    case 'has-any':
      return `JSON_OVERLAPS(${held()}, ${bind(JSON.stringify(question.values))})`;
    case 'texts':
      return `${folded()} IN (${list([...question.folded.keys()])})`;
    case 'part': {
      const { where, text } = question;
      // UTF-8 lets a text be found in another by its bytes.
      if (where === 'contains') return `LOCATE(BINARY ${bind(text)}, ${folded()}) > 0`;
      const bytes = new TextEncoder().encode(text).length;
      return `${where === 'starts' ? 'LEFT' : 'RIGHT'}(${folded()}, ${bytes}) = BINARY ${bind(text)}`;
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
  { catalogue, facts, columns }: SqlSurroundings,
  bound: (string | number)[],
): string {
  const fact = facts.at(catalogue.indexOf(test.attribute) ?? -1);
  const wanted = typeof fact === 'string' ? [fold(fact)] : Array.isArray(fact) ? fact : [];
  if (wanted.length === 0) return 'FALSE';
  const bind = (value: string) => {
    bound.push(value);
    return '?';
  };
  const own =
    test.op === 'same-as' ? foldedSql(other, columns, bind) : `BINARY ${valueSql(other, columns, bind)}`;
  return `((${own} IN (${wanted.map(bind).join(', ')})) IS TRUE)`;
}

function signInSql(test: Test, signedIn: string): string {
  if (test.op === 'is-yes') return signedIn;
  if (test.op === 'is-no') return `(NOT ${signedIn})`;
  return test.op === 'has-value' ? 'TRUE' : 'FALSE';
}
