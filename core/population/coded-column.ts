import type { Fact } from '../attributes/viewer.ts';
import { type Bits, setBit, wordsFor } from './bits.ts';
import { Changes } from './changes.ts';
import type { Column, ColumnImage } from './column.ts';
import { evaluator } from './expression.ts';
import { grown, placeOf } from './sorted-rows.ts';
import { prepareSplice, spliced } from './splice.ts';

/** A value that more than one row in so many has gets bits of its own; others a list of rows. */
const rowsPerOwnBits = 64;

/**
 * Values by a code for each different one: choices, sets, texts. A test is asked once for each different value, and the
 * rows of those it holds for are put together from the index. Of a set each member has bits of its own besides.
 */
export class CodedColumn implements Column {
  known: Bits = new Int32Array(0);
  private readonly members = new Map<string, Bits>();
  private codes = new Uint32Array(0);
  /** By code; 0 is a missing value. */
  private facts: Fact[] = [undefined];
  /** The code of each value, once one is looked for. */
  private codesOf: Map<Key, number> | undefined;
  private readonly changed = new Changes();
  /** Rows by code and then by row, as of the last index: those of code c from `starts[c]` to `starts[c + 1]`. */
  private order: Uint32Array = new Uint32Array(0);
  private starts: Uint32Array = new Uint32Array(2);
  private own = new Map<number, Bits>();

  constructor(private readonly isSet: boolean) {}

  at(row: number): Fact {
    return this.facts[this.codes[row] ?? 0];
  }

  set(row: number, fact: Fact): void {
    if (this.isSet) this.setMembers(row, fact);
    this.changed.add(row, this.codes[row] ?? 0);
    this.codes[row] = this.codeFor(fact);
    setBit(this.known, row, fact !== undefined);
  }

  grow(rows: number): void {
    this.codes = grown(this.codes, rows);
    this.known = grown(this.known, wordsFor(rows));
    for (const [member, bits] of this.members) this.members.set(member, grown(bits, wordsFor(rows)));
  }

  fillMembers(into: Bits, values: readonly string[], all: boolean): boolean {
    if (!this.isSet) return false;
    for (const [index, value] of values.entries()) {
      const bits = this.members.get(value);
      if (bits && index === 0) into.set(bits);
      else if (bits) evaluator.join(into, bits, all ? 'and' : 'or');
      else if (all) {
        into.fill(0);
        return true;
      }
    }
    return true;
  }

  private setMembers(row: number, fact: Fact): void {
    const before = this.at(row);
    if (typeof before === 'object')
      for (const member of before) {
        const bits = this.members.get(member);
        if (bits) setBit(bits, row, false);
      }
    if (typeof fact !== 'object') return;
    for (const member of fact) setBit(this.bitsOf(member), row, true);
  }

  fill(into: Bits, holds: (fact: Fact) => boolean): void {
    if (this.changed.tooMany) this.reindex();
    const holding: number[] = [];
    const indexed = this.starts.length - 1;
    let rows = 0;
    for (let code = 0; code < indexed; code++) {
      if (!holds(this.facts[code])) continue;
      holding.push(code);
      rows += this.sizeOf(code);
    }
    const most = rows > this.order.length / 2;
    // Where most rows hold, the others are fewer to look up.
    const listed = most ? complement(holding, indexed) : holding;
    for (const [index, code] of listed.entries()) {
      // Nothing is in there yet, so that the first bits need no joining.
      const own = index === 0 ? this.own.get(code) : undefined;
      if (own) into.set(own);
      else this.mark(into, code);
    }
    if (most) evaluator.turn(into);
    for (const row of this.changed.before.keys()) setBit(into, row, holds(this.at(row)));
  }

  fillRange(): boolean {
    return false;
  }

  counts(): { fact: NonNullable<Fact>; rows: number }[] {
    const counts = new Uint32Array(this.facts.length);
    for (const code of this.codes) counts[code] = (counts[code] ?? 0) + 1;
    return this.facts.flatMap((fact, code) => {
      const rows = counts[code] ?? 0;
      return fact === undefined || rows === 0 ? [] : [{ fact, rows }];
    });
  }

  keysAt(rows: Uint32Array, keyOf: (fact: Fact) => number, into: Float64Array): void {
    const keys = Float64Array.from(this.facts, keyOf);
    const { codes } = this;
    for (let at = 0; at < rows.length; at++) into[at] = keys[codes[rows[at] ?? 0] ?? 0] ?? 0;
  }

  get different(): readonly Fact[] {
    return this.facts;
  }

  get bytes(): number {
    let own = 0;
    for (const bits of this.own.values()) own += bits.byteLength;
    for (const bits of this.members.values()) own += bits.byteLength;
    return (
      this.codes.byteLength + this.known.byteLength + this.order.byteLength + own + 64 * this.facts.length
    );
  }

  reindex(): void {
    if (this.changed.tooMany || this.order.length === 0) this.sortAll();
    else this.moveRows();
    this.changed.clear();
  }

  image(rows: number): ColumnImage {
    // Values that nobody has any more are left out.
    const codes = this.codes.slice(0, rows);
    const facts: Fact[] = [undefined];
    const renumbered = new Uint32Array(this.facts.length);
    for (let row = 0; row < rows; row++) {
      const code = codes[row] ?? 0;
      if (code !== 0 && renumbered[code] === 0) renumbered[code] = facts.push(this.facts[code]) - 1;
      codes[row] = renumbered[code] ?? 0;
    }
    return { kind: 'codes', codes, facts };
  }

  restore(image: ColumnImage, room: number): void {
    if (image.kind !== 'codes') throw new Error('this is the image of another kind of column');
    this.codes = grown(image.codes, room);
    this.known = new Int32Array(wordsFor(room));
    const { codes, known } = this;
    for (let row = 0; row < codes.length; row++)
      if (codes[row] !== 0) known[row >>> 5] = (known[row >>> 5] ?? 0) | (1 << (row & 31));
    this.facts = [...image.facts];
    this.codesOf = undefined;
    this.order = new Uint32Array(0);
    this.starts = new Uint32Array(2);
    this.own = new Map();
    this.changed.addAll();
    this.members.clear();
    this.markMembers(0, codes.length);
  }

  append(image: ColumnImage, from: number): void {
    if (image.kind !== 'codes') throw new Error('this is the image of another kind of column');
    const own = Uint32Array.from(image.facts, (fact) => this.codeFor(fact));
    const { codes, known } = this;
    for (let at = 0; at < image.codes.length; at++) {
      const code = own[image.codes[at] ?? 0] ?? 0;
      codes[from + at] = code;
      if (code !== 0) setBit(known, from + at, true);
    }
    this.markMembers(from, from + image.codes.length);
    this.changed.addAll();
  }

  /** Marks some rows in the bits of the members that their sets have. */
  private markMembers(from: number, to: number): void {
    if (!this.isSet) return;
    const { codes } = this;
    const bitsOf = this.facts.map((fact) =>
      typeof fact === 'object' ? fact.map((member) => this.bitsOf(member)) : undefined,
    );
    for (let row = from; row < to; row++) {
      const all = bitsOf[codes[row] ?? 0];
      if (!all) continue;
      for (let at = 0; at < all.length; at++) {
        const bits = all[at];
        if (bits) bits[row >>> 5] = (bits[row >>> 5] ?? 0) | (1 << (row & 31));
      }
    }
  }

  /** The bits of those whose set has a member. */
  private bitsOf(member: string): Bits {
    let bits = this.members.get(member);
    if (!bits) {
      bits = new Int32Array(this.known.length);
      this.members.set(member, bits);
    }
    return bits;
  }

  private sortAll(): void {
    const { codes } = this;
    const starts = new Uint32Array(this.facts.length + 1);
    for (const code of codes) starts[code + 1] = (starts[code + 1] ?? 0) + 1;
    for (let code = 1; code < starts.length; code++)
      starts[code] = (starts[code] ?? 0) + (starts[code - 1] ?? 0);
    const next = starts.slice();
    this.order = new Uint32Array(codes.length);
    for (let row = 0; row < codes.length; row++) {
      const code = codes[row] ?? 0;
      const place = next[code] ?? 0;
      this.order[place] = row;
      next[code] = place + 1;
    }
    this.starts = starts;
    this.own = new Map();
    for (let code = 0; code < this.facts.length; code++) this.ownBits(code);
  }

  /** Takes the few rows that changed out of the order and puts them in where they belong now. */
  private moveRows(): void {
    const { codes, order } = this;
    const code = (row: number): number => codes[row] ?? 0;
    const indexed = this.starts.length;
    this.starts = grown(this.starts, this.facts.length + 1);
    this.starts.fill(order.length, indexed);
    const moved = [...this.changed.before.keys()].sort(
      (left, right) => code(left) - code(right) || left - right,
    );
    const before = Uint32Array.from(moved, (row) => this.placeInOrder(code(row), row));
    // Rows that there was no room for when the index was made are in it nowhere.
    const leaving = [...this.changed.before]
      .map(([row, was]) => ({ row, was, place: this.placeInOrder(was, row) }))
      .filter(({ row, was, place }) => place < (this.starts[was + 1] ?? 0) && order[place] === row);
    const splice = prepareSplice(
      order.length,
      Uint32Array.from(leaving, ({ place }) => place).sort(),
      before,
    );
    this.order = spliced(order, splice, codes.length);
    for (const [index, row] of moved.entries()) this.order[splice.gaps[index] ?? 0] = row;
    for (const [index, bits] of this.own) this.own.set(index, grown(bits, wordsFor(codes.length)));
    const more = new Int32Array(this.facts.length);
    for (const { row, was } of leaving) {
      more[was] = (more[was] ?? 0) - 1;
      const bits = this.own.get(was);
      if (bits) setBit(bits, row, false);
    }
    for (const row of moved) {
      more[code(row)] = (more[code(row)] ?? 0) + 1;
      const bits = this.own.get(code(row));
      if (bits) setBit(bits, row, true);
    }
    let shift = 0;
    for (let index = 0; index < more.length; index++) {
      shift += more[index] ?? 0;
      this.starts[index + 1] = (this.starts[index + 1] ?? 0) + shift;
    }
    for (const index of new Set(moved.map(code))) if (!this.own.has(index)) this.ownBits(index);
  }

  /** The place of a row among those of a code, whether it is there or not. */
  private placeInOrder(code: number, row: number): number {
    return placeOf(this.order, row, this.starts[code] ?? 0, this.starts[code + 1] ?? 0);
  }

  /** Gives a code that many rows have bits of its own. */
  private ownBits(code: number): void {
    if (this.sizeOf(code) * rowsPerOwnBits < this.codes.length) return;
    const bits = new Int32Array(wordsFor(this.codes.length));
    this.mark(bits, code);
    this.own.set(code, bits);
  }

  get stale(): number {
    return this.changed.size;
  }

  private sizeOf(code: number): number {
    return (this.starts[code + 1] ?? 0) - (this.starts[code] ?? 0);
  }

  private mark(into: Bits, code: number): void {
    const own = this.own.get(code);
    if (own) {
      evaluator.join(into, own, 'or');
      return;
    }
    const end = this.starts[code + 1] ?? 0;
    for (let at = this.starts[code] ?? 0; at < end; at++) {
      const row = this.order[at] ?? 0;
      into[row >>> 5] = (into[row >>> 5] ?? 0) | (1 << (row & 31));
    }
  }

  private codeFor(fact: Fact): number {
    if (fact === undefined) return 0;
    this.codesOf ??= codesByKey(this.facts);
    const key = keyOf(fact);
    const found = this.codesOf.get(key);
    if (found !== undefined) return found;
    const made = this.facts.push(fact) - 1;
    this.codesOf.set(key, made);
    return made;
  }
}

/** A value as a key. A column has either sets or single values, so that no set is taken for a text. */
type Key = Exclude<Fact, object | undefined>;

function keyOf(fact: NonNullable<Fact>): Key {
  return typeof fact === 'object' ? fact.join('\u0000') : fact;
}

function codesByKey(facts: readonly Fact[]): Map<Key, number> {
  const codes = new Map<Key, number>();
  for (let code = 1; code < facts.length; code++) {
    const fact = facts[code];
    if (fact !== undefined) codes.set(keyOf(fact), code);
  }
  return codes;
}

function complement(codes: readonly number[], all: number): number[] {
  const held = new Set(codes);
  return Array.from({ length: all }, (_, code) => code).filter((code) => !held.has(code));
}
