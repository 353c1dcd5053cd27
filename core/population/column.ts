import type { Attribute } from '../attributes/attribute.ts';
import type { Fact } from '../attributes/viewer.ts';
import { type Bits, setBit, wordsFor } from './bits.ts';
import { evaluator } from './expression.ts';

/** One attribute of all rows, with an index that answers a test of it as bits. */
export interface Column {
  /** The value at a row; undefined where it is missing. */
  at(row: number): Fact;
  set(row: number, fact: Fact): void;
  /** Makes room for rows, which begin without a value. */
  grow(rows: number): void;
  /** Sets, in cleared bits, those of all rows whose value holds; a missing value may hold too. */
  fill(into: Bits, holds: (fact: Fact) => boolean): void;
  /** The same for numbers within a range, where the column can be quicker; false where it can't. */
  fillRange(into: Bits, from: number, to: number): boolean;
  /** The same for sets that hold any, or all, of some values; false where the column has no sets. */
  fillMembers(into: Bits, values: readonly string[], all: boolean): boolean;
  /** The rows with a value. */
  readonly known: Bits;
  /** Bytes that it takes up. */
  readonly bytes: number;
  /** How many values were set since the index was made; infinite where there were too many to know. */
  readonly stale: number;
  /** Brings the index up to date with the values that were set since. */
  reindex(): void;
}

export function columnFor(attribute: Attribute): Column {
  return attribute.type === 'number' ||
    attribute.type === 'date' ||
    attribute.type === 'date-time' ||
    attribute.type === 'time'
    ? new NumberColumn()
    : new CodedColumn(attribute.type === 'set');
}

/** Changed rows past which the index is made anew, so that looking at them one by one stays cheap. */
const mostChanged = 20_000;

/** The rows that were set since the index was made, while there are few. */
class Changes {
  readonly rows = new Set<number>();
  /** Whether there were too many to go on with the index. */
  tooMany = false;

  add(row: number): void {
    if (this.tooMany) return;
    this.rows.add(row);
    if (this.rows.size <= mostChanged) return;
    this.tooMany = true;
    this.rows.clear();
  }

  clear(): void {
    this.rows.clear();
    this.tooMany = false;
  }
}
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
  private readonly facts: Fact[] = [undefined];
  private readonly codeOf = new Map<string, number>();
  private readonly changed = new Changes();
  /** Rows by code, as of the last index: those of code c from `starts[c]` to `starts[c + 1]`. */
  private order = new Uint32Array(0);
  private starts = new Uint32Array(2);
  private own = new Map<number, Bits>();

  constructor(private readonly isSet: boolean) {}

  at(row: number): Fact {
    return this.facts[this.codes[row] ?? 0];
  }

  set(row: number, fact: Fact): void {
    if (this.isSet) this.setMembers(row, fact);
    this.codes[row] = this.codeFor(fact);
    setBit(this.known, row, fact !== undefined);
    this.changed.add(row);
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
    for (const member of fact) {
      let bits = this.members.get(member);
      if (!bits) {
        bits = new Int32Array(this.known.length);
        this.members.set(member, bits);
      }
      setBit(bits, row, true);
    }
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
    for (const row of this.changed.rows) setBit(into, row, holds(this.at(row)));
  }

  fillRange(): boolean {
    return false;
  }

  /** Every different value that occurs, with how many rows have it; missing first. */
  counts(): { fact: Fact; rows: number }[] {
    const counts = new Uint32Array(this.facts.length);
    for (const code of this.codes) counts[code] = (counts[code] ?? 0) + 1;
    return this.facts.map((fact, code) => ({ fact, rows: counts[code] ?? 0 }));
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
    for (let code = 0; code < this.facts.length; code++) {
      if (this.sizeOf(code) * rowsPerOwnBits < codes.length) continue;
      const bits = new Int32Array(wordsFor(codes.length));
      this.mark(bits, code);
      this.own.set(code, bits);
    }
    this.changed.clear();
  }

  get stale(): number {
    return this.changed.tooMany ? Number.POSITIVE_INFINITY : this.changed.rows.size;
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
    const key = typeof fact === 'object' ? fact.join('\u0000') : `${typeof fact} ${fact}`;
    const found = this.codeOf.get(key);
    if (found !== undefined) return found;
    const made = this.facts.push(fact) - 1;
    this.codeOf.set(key, made);
    return made;
  }
}

function complement(codes: readonly number[], all: number): number[] {
  const held = new Set(codes);
  return Array.from({ length: all }, (_, code) => code).filter((code) => !held.has(code));
}

/** How many thresholds there are. */
const mostThresholds = 128;

/**
 * Numbers, dates, instants and times of day. The rows are kept sorted by value, and for 128 thresholds among the values
 * there are bits of the rows below each, so that any range is the difference of two of these and few rows one by one.
 */
export class NumberColumn implements Column {
  known: Bits = new Int32Array(0);
  private values = new Float64Array(0);
  /** Rows that were set since the index was made, with the value it knows for them, while there are few. */
  private readonly changed = new Map<number, number>();
  private tooMany = false;
  private order: Uint32Array = new Uint32Array(0);
  private sorted = new Float64Array(0);
  private thresholds: { value: number; place: number; below: Bits }[] = [];

  at(row: number): Fact {
    const value = this.values[row];
    return value === undefined || Number.isNaN(value) ? undefined : value;
  }

  set(row: number, fact: Fact): void {
    if (!this.tooMany && !this.changed.has(row)) {
      this.changed.set(row, this.values[row] ?? Number.NaN);
      if (this.changed.size > mostChanged) {
        this.tooMany = true;
        this.changed.clear();
      }
    }
    this.values[row] = typeof fact === 'number' ? fact : Number.NaN;
    setBit(this.known, row, typeof fact === 'number');
  }

  grow(rows: number): void {
    const before = this.values.length;
    this.values = grown(this.values, rows);
    this.values.fill(Number.NaN, before);
    this.known = grown(this.known, wordsFor(rows));
    for (const threshold of this.thresholds) threshold.below = grown(threshold.below, wordsFor(rows));
  }

  fill(into: Bits, holds: (fact: Fact) => boolean): void {
    if (this.tooMany) this.reindex();
    const { order, sorted } = this;
    let last = Number.NaN;
    let is = false;
    for (let at = 0; at < sorted.length; at++) {
      const value = sorted[at] ?? 0;
      if (value !== last) {
        last = value;
        is = holds(value);
      }
      if (is) {
        const row = order[at] ?? 0;
        into[row >>> 5] = (into[row >>> 5] ?? 0) | (1 << (row & 31));
      }
    }
    if (holds(undefined))
      for (let at = 0; at < into.length; at++) into[at] = (into[at] ?? 0) | ~(this.known[at] ?? 0);
    for (const row of this.changed.keys()) setBit(into, row, holds(this.at(row)));
  }

  fillRange(into: Bits, from: number, to: number): boolean {
    if (this.tooMany) this.reindex();
    const low = lowerBound(this.sorted, from);
    const high = upperBound(this.sorted, to);
    if (high > low) {
      const [upper, lower] = [this.nearest(high), this.nearest(low)];
      if (upper) into.set(upper.below);
      this.flip(into, upper?.place ?? 0, high);
      if (lower) evaluator.join(into, lower.below, 'xor');
      this.flip(into, lower?.place ?? 0, low);
    }
    for (const row of this.changed.keys()) {
      const value = this.values[row] ?? Number.NaN;
      setBit(into, row, value >= from && value <= to);
    }
    return true;
  }

  fillMembers(): boolean {
    return false;
  }

  get bytes(): number {
    const bits = this.known.byteLength * (1 + this.thresholds.length);
    return this.values.byteLength + this.order.byteLength + this.sorted.byteLength + bits;
  }

  get stale(): number {
    return this.tooMany ? Number.POSITIVE_INFINITY : this.changed.size;
  }

  reindex(): void {
    if (this.tooMany || this.order.length === 0) {
      this.order = sortRows(this.values);
      this.sorted = new Float64Array(this.order.length);
      for (let at = 0; at < this.order.length; at++)
        this.sorted[at] = this.values[this.order[at] ?? 0] ?? Number.NaN;
      this.chooseThresholds();
    } else {
      this.merge();
      this.moveThresholds();
    }
    this.changed.clear();
    this.tooMany = false;
  }

  /** Takes the few rows that changed out of the order and puts them in where they belong now. */
  private merge(): void {
    const { values, order, sorted, changed } = this;
    const moved = Uint32Array.from(changed.keys())
      .filter((row) => !Number.isNaN(values[row] ?? Number.NaN))
      .sort((left, right) => (values[left] ?? 0) - (values[right] ?? 0));
    const isMoved = new Uint8Array(values.length);
    for (const row of changed.keys()) isMoved[row] = 1;
    const made = new Uint32Array(order.length + moved.length);
    const madeSorted = new Float64Array(made.length);
    let length = 0;
    let next = 0;
    let nextValue = values[moved[0] ?? -1] ?? Number.POSITIVE_INFINITY;
    const putMoved = (): void => {
      made[length] = moved[next] ?? 0;
      madeSorted[length++] = nextValue;
      nextValue = values[moved[++next] ?? -1] ?? Number.POSITIVE_INFINITY;
    };
    for (let at = 0; at < order.length; at++) {
      const row = order[at] ?? 0;
      if (isMoved[row] === 1) continue;
      // Read in order, unlike the values themselves, which lie all over.
      const value = sorted[at] ?? 0;
      while (nextValue < value) putMoved();
      made[length] = row;
      madeSorted[length++] = value;
    }
    while (next < moved.length) putMoved();
    this.order = made.subarray(0, length);
    this.sorted = madeSorted.subarray(0, length);
  }

  /** Values at even distances in the order, each once. */
  private chooseThresholds(): void {
    const { order, sorted } = this;
    this.thresholds = [];
    const bits = new Int32Array(this.known.length);
    let at = 0;
    for (let index = 1; index < mostThresholds; index++) {
      const value = sorted[Math.floor((index * sorted.length) / mostThresholds)];
      if (value === undefined || value === this.thresholds.at(-1)?.value) continue;
      const place = lowerBound(sorted, value);
      for (; at < place; at++) {
        const row = order[at] ?? 0;
        bits[row >>> 5] = (bits[row >>> 5] ?? 0) | (1 << (row & 31));
      }
      if (place > 0) this.thresholds.push({ value, place, below: bits.slice() });
    }
  }

  /** The thresholds stay; each changed row goes to its side of those that it passed. */
  private moveThresholds(): void {
    for (const threshold of this.thresholds) {
      const { value, below } = threshold;
      for (const [row, before] of this.changed) {
        const now = this.values[row] ?? Number.NaN;
        if (now < value !== before < value) setBit(below, row, now < value);
      }
      threshold.place = lowerBound(this.sorted, value);
    }
  }

  private nearest(place: number): { place: number; below: Bits } | undefined {
    let [best, distance]: [{ place: number; below: Bits } | undefined, number] = [undefined, place];
    for (const threshold of this.thresholds) {
      const away = Math.abs(threshold.place - place);
      if (away < distance) [best, distance] = [threshold, away];
    }
    return best;
  }

  private flip(into: Bits, one: number, two: number): void {
    const { order } = this;
    const end = Math.max(one, two);
    for (let at = Math.min(one, two); at < end; at++) {
      const row = order[at] ?? 0;
      into[row >>> 5] = (into[row >>> 5] ?? 0) ^ (1 << (row & 31));
    }
  }
}

/** Rows that have a value, in the order of their values: each counted into the place of its value among all. */
function sortRows(values: Float64Array): Uint32Array {
  const known = values.filter((value) => !Number.isNaN(value)).sort();
  // Equal values share a start, which moves on as they are placed.
  const placed = new Uint32Array(known.length);
  const order = new Uint32Array(known.length);
  for (let row = 0; row < values.length; row++) {
    const value = values[row] ?? Number.NaN;
    if (Number.isNaN(value)) continue;
    const start = lowerBound(known, value);
    const before = placed[start] ?? 0;
    order[start + before] = row;
    placed[start] = before + 1;
  }
  return order;
}

function lowerBound(sorted: Float64Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((sorted[middle] ?? 0) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

function upperBound(sorted: Float64Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((sorted[middle] ?? 0) <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

function grown<Numbers extends Int32Array | Uint32Array | Float64Array>(
  numbers: Numbers,
  length: number,
): Numbers;
function grown(numbers: Int32Array | Uint32Array | Float64Array, length: number) {
  if (numbers.length >= length) return numbers;
  const made =
    numbers instanceof Float64Array
      ? new Float64Array(length)
      : numbers instanceof Int32Array
        ? new Int32Array(length)
        : new Uint32Array(length);
  made.set(numbers);
  return made;
}
