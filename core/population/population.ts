import type { Catalogue } from '../attributes/catalogue.ts';
import { type Fact, FactReader, Facts, factReader } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import type { Condition, Test } from '../conditions/condition.ts';
import { compileTest } from '../conditions/evaluate.ts';
import { meaningOf, type Question } from '../conditions/meaning.ts';
import { type Bits, hasBit, rowsOf, setBit, wordsFor } from './bits.ts';
import type { Column, ColumnImage } from './column.ts';
import { columnFor } from './column-for.ts';
import { type Expression, evaluator, everyone, negate, nobody } from './expression.ts';

/** A contact as counting needs it. */
export interface Person {
  readonly id: number;
  readonly values: { readonly [attribute: string]: unknown };
  /** With a site account a person counts as signed in, without one as recognised. */
  readonly hasAccount: boolean;
}

/** What all contacts are asked under: the moment, and what would be so about their visit. */
export interface Setting {
  /** Milliseconds since 1970 UTC. */
  readonly instant: number;
  /** In mail nobody is signed in. */
  readonly channel: 'page' | 'email';
  readonly visit?: { readonly [attribute: string]: unknown };
  readonly item?: { readonly [attribute: string]: unknown };
}

/** All contacts as plain data that can be written down; see {@link Population.image}. */
export interface PopulationImage {
  /** The contact at each row. */
  readonly ids: Int32Array;
  /** One bit a row: whether somebody is there, and whether they have an account. */
  readonly alive: Bits;
  readonly accounts: Bits;
  /** One for each attribute of contacts, in the order of the catalogue. */
  readonly columns: readonly ColumnImage[];
}

/** Most bytes of remembered answers to single tests; the oldest are forgotten first. */
const mostRemembered = 256 * 1024 * 1024;
/** Most forgotten bits that are kept for use again. */
const mostSpare = 512;
const reservedRows = 1024;
/** The number of changed rows from which an index is rebuilt. */
const staleRows = 500;

interface Remembered {
  bits: Bits;
  /** Whether the test holds for a row as it is now. */
  holds: (row: number) => boolean;
  column: number;
}

/**
 * All contacts as columns, one an attribute, that answer conditions as bits, one a contact: each different test once,
 * remembered and kept right as contacts change; groups of tests by whole words.
 */
export class Population {
  private readonly columns: Column[];
  private readonly contactColumns: readonly number[];
  private readonly readers: readonly ReturnType<typeof factReader>[];
  private readonly rowOf = new Map<number, number>();
  private readonly free: number[] = [];
  private readonly remembered = new Map<string, Remembered>();
  /** Bits that were forgotten; their words are used again once nobody can hold them any more. */
  private forgotten: Bits[] = [];
  private spare: Bits[] = [];
  private ids = new Int32Array(0);
  private used = 0;
  private alive: Bits = new Int32Array(0);
  private accounts: Bits = new Int32Array(0);

  constructor(readonly catalogue: Catalogue) {
    this.columns = catalogue.attributes.map(columnFor);
    this.readers = catalogue.attributes.map(factReader);
    this.contactColumns = catalogue.attributes.flatMap(({ source }, index) =>
      source === 'contact' ? [index] : [],
    );
  }

  get size(): number {
    return this.rowOf.size;
  }

  /**
   * Everybody as they are now; may share memory with the columns.
   *
   * @param isIndexed whether to include what answers questions quickly, which may have to be made for that
   */
  image(isIndexed = true): PopulationImage {
    const { used } = this;
    return {
      ids: this.ids.subarray(0, used),
      alive: this.alive.subarray(0, wordsFor(used)),
      accounts: this.accounts.subarray(0, wordsFor(used)),
      columns: this.contactColumns.flatMap((at) => this.columns[at]?.image(used, isIndexed) ?? []),
    };
  }

  /** The population that an image was made of. Throws where it is one of other attributes. */
  static of(catalogue: Catalogue, { ids, alive, accounts, columns }: PopulationImage): Population {
    const made = new Population(catalogue);
    if (columns.length !== made.contactColumns.length)
      throw new Error('this is the image of other attributes');
    if (ids.length > 0) made.makeRoom(roomFor(ids.length));
    made.used = ids.length;
    made.ids.set(ids);
    made.alive.set(alive);
    made.accounts.set(accounts);
    for (let row = 0; row < ids.length; row++)
      if (hasBit(alive, row)) made.rowOf.set(ids[row] ?? 0, row);
      else made.free.push(row);
    for (const [index, at] of made.contactColumns.entries()) {
      const image = columns[index];
      if (image) made.columns[at]?.restore(image, made.ids.length);
    }
    return made;
  }

  /** Adds everybody in an image, who must not be here yet. Throws where it is one of other attributes. */
  append({ ids, alive, accounts, columns }: PopulationImage): void {
    if (columns.length !== this.contactColumns.length)
      throw new Error('this is the image of other attributes');
    const from = this.used;
    this.used += ids.length;
    if (this.used > this.ids.length) this.grow(this.used);
    this.ids.set(ids, from);
    for (let at = 0; at < ids.length; at++) {
      const row = from + at;
      if (hasBit(alive, at)) this.rowOf.set(ids[at] ?? 0, row);
      else this.free.push(row);
      setBit(this.alive, row, hasBit(alive, at));
      setBit(this.accounts, row, hasBit(accounts, at));
    }
    for (const [index, at] of this.contactColumns.entries()) {
      const image = columns[index];
      if (image) this.columns[at]?.append(image, from);
    }
    this.forget();
  }

  /** Bytes of the columns, their indexes and the remembered answers. */
  get bytes(): number {
    const remembered = this.remembered.size * this.alive.byteLength;
    return (
      this.contactColumns.reduce((sum, at) => sum + (this.columns[at]?.bytes ?? 0), remembered) +
      40 * this.used
    );
  }

  /** Adds a contact or changes it; what was remembered is kept right. */
  put(person: Person): void {
    let row = this.rowOf.get(person.id);
    const isNew = row === undefined;
    if (row === undefined) {
      row = this.free.pop() ?? this.used++;
      if (row >= this.ids.length) this.grow(row + 1);
      this.rowOf.set(person.id, row);
      this.ids[row] = person.id;
      setBit(this.alive, row, true);
    }
    setBit(this.accounts, row, person.hasAccount);
    const changed: number[] = [];
    for (const at of this.contactColumns) {
      const column = this.columns[at];
      const fact = this.readers[at]?.(person.values);
      if (!column || (!isNew && sameFact(column.at(row), fact))) continue;
      column.set(row, fact);
      changed.push(at);
    }
    this.keepRight(row, changed);
  }

  remove(id: number): void {
    const row = this.rowOf.get(id);
    if (row === undefined) return;
    this.rowOf.delete(id);
    this.free.push(row);
    setBit(this.alive, row, false);
    const changed: number[] = [];
    for (const at of this.contactColumns) {
      if (this.columns[at]?.at(row) === undefined) continue;
      this.columns[at]?.set(row, undefined);
      changed.push(at);
    }
    this.keepRight(row, changed);
  }

  /** Rebuilds the indexes. Call it after adding many contacts at once. */
  reindex(): void {
    for (const at of this.contactColumns) this.columns[at]?.reindex();
  }

  /**
   * Brings the index up to date that fell behind most, if it is far behind; to be called after each batch of changes, so
   * that no batch has to wait for all of them.
   *
   * @returns whether one was behind
   */
  tidy(): boolean {
    let [behind, worst]: [number, Column | undefined] = [staleRows, undefined];
    for (const at of this.contactColumns) {
      const column = this.columns[at];
      if (column && column.stale > behind) [behind, worst] = [column.stale, column];
    }
    worst?.reindex();
    return worst !== undefined;
  }

  /** Forgets the answers to tests, so that the next question is answered from the indexes alone. */
  forget(): void {
    for (const { bits } of this.remembered.values()) this.forgotten.push(bits);
    this.remembered.clear();
  }

  /**
   * Asks conditions under a setting; audiences with problems contain nobody, as in deciding. What an earlier asking
   * answered with must not be used any more.
   */
  under(setting: Setting, audiences: readonly Audience[], problems: ReadonlyMap<string, unknown>): Asking {
    this.spare = [...this.spare, ...this.forgotten].slice(0, mostSpare);
    this.forgotten = [];
    const viewer = {
      contact: null,
      signedIn: false,
      visit: setting.channel === 'email' ? {} : { ...setting.visit },
      item: setting.item ? { ...setting.item } : null,
      instant: setting.instant,
    };
    return new Asking(
      this,
      new FactReader(this.catalogue).read(viewer),
      setting.channel,
      audiences,
      problems,
    );
  }

  /** The ids of the contacts whose bit is set, in the order they were added; from one on, at most so many. */
  idsIn(bits: Bits, from = 0, most = Number.POSITIVE_INFINITY): number[] {
    const found: number[] = [];
    let at = 0;
    for (const row of rowsOf(bits)) {
      if (!hasBit(this.alive, row) || at++ < from) continue;
      if (found.length >= most) break;
      found.push(this.ids[row] ?? 0);
    }
    return found;
  }

  /** The rows of the contacts whose bit is set. */
  rowsIn(bits: Bits): Uint32Array {
    const { alive } = this;
    const rows = new Uint32Array(this.count(bits));
    let length = 0;
    for (let at = 0; at < bits.length; at++)
      for (let word = (bits[at] ?? 0) & (alive[at] ?? 0); word !== 0; word &= word - 1)
        rows[length++] = (at << 5) + (31 - Math.clz32(word & -word));
    return rows;
  }

  /** The row of a contact; undefined where there is none. */
  rowFor(id: number): number | undefined {
    return this.rowOf.get(id);
  }

  /**
   * A number for the value of an attribute at each of some rows, by which they are sorted.
   *
   * @param keyOf the number of a value; asked once for each different one where these are few
   */
  keysAt(attribute: string, rows: Uint32Array, keyOf: (fact: Fact) => number, into: Float64Array): void {
    const column = this.columns[this.catalogue.indexOf(attribute) ?? -1];
    if (column) column.keysAt(rows, keyOf, into);
    else into.fill(keyOf(undefined), 0, rows.length);
  }

  /** The different values of an attribute that occur or have occurred; undefined where it holds numbers. */
  differentFacts(attribute: string): readonly Fact[] | undefined {
    return this.columns[this.catalogue.indexOf(attribute) ?? -1]?.different;
  }

  /** The value of an attribute, by its place in the catalogue, for a contact. */
  factFor(id: number, attribute: number): Fact {
    const row = this.rowOf.get(id);
    return row === undefined ? undefined : this.columns[attribute]?.at(row);
  }

  idAt(row: number): number {
    return this.ids[row] ?? 0;
  }

  count(bits: Bits): number {
    return evaluator.count({ kind: 'bits', bits, negated: false }, this.alive);
  }

  contains(bits: Bits, id: number): boolean {
    const row = this.rowOf.get(id);
    return row !== undefined && hasBit(bits, row);
  }

  /** How many contacts have no value of an attribute. */
  lacking(attribute: string): number {
    const column = this.columns[this.catalogue.indexOf(attribute) ?? -1];
    return column ? this.size - this.count(column.known) : this.size;
  }

  /** Every different value of an attribute that somebody has, with how many contacts have it. */
  counts(attribute: string): { fact: NonNullable<Fact>; rows: number }[] {
    return this.columns[this.catalogue.indexOf(attribute) ?? -1]?.counts() ?? [];
  }

  get everybody(): Bits {
    return this.alive;
  }

  get withAccount(): Bits {
    return this.accounts;
  }

  /**
   * The rows for which a test of a contact attribute holds, remembered; not to be written into.
   *
   * @param today the day that relative dates count from
   */
  rowsWhere(test: Test, today: number): Bits {
    const column = this.catalogue.indexOf(test.attribute) ?? -1;
    const attribute = this.catalogue.get(test.attribute);
    const own = this.columns[column];
    if (!attribute || !own) throw new Error(`no attribute “${test.attribute}”`);
    const { negated, question } = meaningOf(test, attribute, this.catalogue);
    const key = JSON.stringify([test.attribute, test.op, test.values, countsFromToday(question) ? today : 0]);
    const known = this.remembered.get(key);
    if (known) return known.bits;
    const { holds } = compileTest(test, this.catalogue);
    const facts = Facts.of([], today);
    const bits = this.spare.pop()?.fill(0) ?? new Int32Array(this.alive.length);
    const ranges = rangesOf(question, attribute.type === 'date', today);
    if (ranges) {
      for (const [index, { from, to }] of ranges.entries()) {
        const part = index === 0 ? bits : new Int32Array(bits.length);
        own.fillRange(part, from, to);
        if (part !== bits) evaluator.join(bits, part, 'or');
      }
      if (negated) evaluator.turn(bits);
    } else if (question.kind === 'known') {
      bits.set(own.known);
      if (negated) evaluator.turn(bits);
    } else if (
      (question.kind === 'has-any' || question.kind === 'has-all') &&
      own.fillMembers(bits, question.values, question.kind === 'has-all')
    ) {
      if (negated) evaluator.turn(bits);
    } else own.fill(bits, (fact) => holds(fact, facts));
    this.remember(key, { bits, holds: (row) => holds(own.at(row), facts), column });
    return bits;
  }

  private remember(key: string, answer: Remembered): void {
    this.remembered.set(key, answer);
    const most = Math.max(8, Math.floor(mostRemembered / Math.max(1, this.alive.byteLength)));
    for (const oldest of this.remembered.keys()) {
      if (this.remembered.size <= most) break;
      const bits = this.remembered.get(oldest)?.bits;
      if (bits) this.forgotten.push(bits);
      this.remembered.delete(oldest);
    }
  }

  private keepRight(row: number, changed: readonly number[]): void {
    if (changed.length === 0) return;
    for (const { bits, holds, column } of this.remembered.values())
      if (changed.includes(column)) setBit(bits, row, holds(row));
  }

  private grow(rows: number): void {
    const room = roomFor(rows);
    for (const at of this.contactColumns) this.columns[at]?.grow(room);
    this.makeRoom(room);
  }

  /** Makes room for rows everywhere but in the columns. */
  private makeRoom(room: number): void {
    const ids = new Int32Array(room);
    ids.set(this.ids);
    this.ids = ids;
    const words = (bits: Bits) => {
      const made = new Int32Array(wordsFor(room));
      made.set(bits);
      return made;
    };
    this.alive = words(this.alive);
    this.accounts = words(this.accounts);
    // Answers for fewer rows say nothing of the new ones.
    this.remembered.clear();
    this.spare = [];
    this.forgotten = [];
  }
}

/** How many rows to make room for, given how many there are: half as many again, rounded up to whole words of bits. */
function roomFor(rows: number): number {
  return (Math.max(reservedRows, Math.ceil(rows * 1.5)) + 31) & ~31;
}

function sameFact(left: Fact, right: Fact): boolean {
  if (typeof left !== 'object' || typeof right !== 'object') return left === right;
  return left.length === right.length && left.every((value, index) => value === right[index]);
}

function countsFromToday(question: Question): boolean {
  return question.kind === 'days-from-today' || question.kind === 'anniversary';
}

/** A question about numbers as closed ranges, where it is one. */
function rangesOf(
  question: Question,
  isDate: boolean,
  today: number,
): { from: number; to: number }[] | undefined {
  if (question.kind === 'days-from-today')
    return isDate ? [{ from: today + question.from, to: today + question.to }] : undefined;
  if (question.kind !== 'within') return undefined;
  return question.ranges.map(({ from, to, withoutFrom, withoutTo }) => ({
    from: withoutFrom ? nextUp(from) : from,
    to: withoutTo ? -nextUp(-to) : to,
  }));
}

const scratch = new DataView(new ArrayBuffer(8));

/** The least number greater than another (IEEE 754, 5.3.1). */
function nextUp(number: number): number {
  if (!Number.isFinite(number)) return number;
  if (number === 0) return Number.MIN_VALUE;
  scratch.setFloat64(0, number);
  const bits = scratch.getBigInt64(0);
  scratch.setBigInt64(0, number > 0 ? bits + 1n : bits - 1n);
  return scratch.getFloat64(0);
}

/** Conditions asked of all contacts under one setting; answers to audiences are kept for as long as this lives. */
export class Asking {
  private readonly byId: ReadonlyMap<string, Audience>;
  private readonly known = new Map<string, Bits>();

  constructor(
    private readonly population: Population,
    private readonly facts: Facts,
    private readonly channel: Setting['channel'],
    audiences: readonly Audience[],
    private readonly problems: ReadonlyMap<string, unknown>,
  ) {
    this.byId = new Map(audiences.map((audience) => [audience.id, audience]));
  }

  count(condition: Condition): number {
    return evaluator.count(this.expressionOf(condition), this.population.everybody);
  }

  /** The rows for which a condition holds, among all that are there or not; not to be written into. */
  rows(condition: Condition): Bits {
    const expression = this.expressionOf(condition);
    if (expression.kind === 'bits' && !expression.negated) return expression.bits;
    return evaluator.rows(expression, this.population.everybody.length);
  }

  /** The members of an audience; nobody where it does not exist or has a problem. Not to be written into. */
  audience(id: string): Bits {
    const found = this.known.get(id);
    if (found) return found;
    const audience = this.byId.get(id);
    const made =
      audience && !this.problems.has(id)
        ? this.rows(audience.condition)
        : new Int32Array(this.population.everybody.length);
    this.known.set(id, made);
    return made;
  }

  /** What is left of a condition once its tests are answered. */
  private expressionOf(condition: Condition): Expression {
    switch (condition.kind) {
      case 'test':
        return this.test(condition);
      case 'audience':
        return { kind: 'bits', bits: this.audience(condition.audience), negated: false };
      case 'not':
        return negate(this.expressionOf(condition.of));
      default:
        return {
          kind: condition.kind,
          parts: condition.of.map((part) => this.expressionOf(part)),
          negated: false,
        };
    }
  }

  private test(test: Test): Expression {
    const { population, facts } = this;
    const { catalogue } = population;
    const attribute = catalogue.get(test.attribute);
    if (!attribute) throw new Error(`no attribute “${test.attribute}”`);
    if (attribute.source === 'contact')
      return { kind: 'bits', bits: population.rowsWhere(test, facts.today), negated: false };
    if (attribute.source === 'sign-in') {
      if (test.op === 'has-value' || test.op === 'has-no-value')
        return test.op === 'has-value' ? everyone : nobody;
      if (this.channel === 'email') return test.op === 'is-yes' ? nobody : everyone;
      return { kind: 'bits', bits: population.withAccount, negated: test.op === 'is-no' };
    }
    if (test.op === 'same-as' || test.op === 'includes-own') return this.ownValue(test);
    const { place, holds } = compileTest(test, catalogue);
    return holds(facts.at(place), facts) ? everyone : nobody;
  }

  /** The item is given, so the contacts are asked whether their value is the one, or among those, that it has. */
  private ownValue(test: Test): Expression {
    const { catalogue } = this.population;
    const fact = this.facts.at(catalogue.indexOf(test.attribute) ?? -1);
    const wanted = typeof fact === 'string' ? [fact] : Array.isArray(fact) ? fact.map(String) : [];
    if (wanted.length === 0) return nobody;
    const asked: Test = { kind: 'test', attribute: String(test.values[0]), op: 'is-one-of', values: wanted };
    return { kind: 'bits', bits: this.population.rowsWhere(asked, this.facts.today), negated: false };
  }
}
