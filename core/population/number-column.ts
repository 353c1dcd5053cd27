import type { Fact } from '../attributes/viewer.ts';
import { type Bits, setBit, wordsFor } from './bits.ts';
import { Changes } from './changes.ts';
import type { Column, ColumnImage } from './column.ts';
import { evaluator } from './expression.ts';
import { grown, lowerBound, placeOf, sortRows, upperBound } from './sorted-rows.ts';
import { prepareSplice, spliced } from './splice.ts';

/** How many thresholds there are. */
const mostThresholds = 128;

/**
 * Numbers, dates, instants and times of day. The rows are kept sorted by value, and for 128 thresholds among the values
 * there are bits of the rows below each, so that any range is the difference of two of these and few rows one by one.
 */
export class NumberColumn implements Column {
  known: Bits = new Int32Array(0);
  private values = new Float64Array(0);
  private readonly changes = new Changes();
  /** Rows with a value, by value and then by row, as of the last index; and their values. */
  private order: Uint32Array = new Uint32Array(0);
  private sorted = new Float64Array(0);
  private thresholds: { value: number; place: number; below: Bits }[] = [];

  at(row: number): Fact {
    const value = this.values[row];
    return value === undefined || Number.isNaN(value) ? undefined : value;
  }

  set(row: number, fact: Fact): void {
    this.changes.add(row, this.values[row] ?? Number.NaN);
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

  counts(): { fact: NonNullable<Fact>; rows: number }[] {
    this.reindex();
    const { sorted } = this;
    const counts: { fact: number; rows: number }[] = [];
    for (let at = 0; at < sorted.length; ) {
      const fact = sorted[at] ?? 0;
      let end = at + 1;
      while (end < sorted.length && sorted[end] === fact) end++;
      counts.push({ fact, rows: end - at });
      at = end;
    }
    return counts;
  }

  fill(into: Bits, holds: (fact: Fact) => boolean): void {
    if (this.changes.tooMany) this.reindex();
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
    for (const row of this.changes.before.keys()) setBit(into, row, holds(this.at(row)));
  }

  fillRange(into: Bits, from: number, to: number): boolean {
    if (this.changes.tooMany) this.reindex();
    const low = lowerBound(this.sorted, from);
    const high = upperBound(this.sorted, to);
    if (high > low) {
      const [upper, lower] = [this.nearest(high), this.nearest(low)];
      if (upper) into.set(upper.below);
      this.flip(into, upper?.place ?? 0, high);
      if (lower) evaluator.join(into, lower.below, 'xor');
      this.flip(into, lower?.place ?? 0, low);
    }
    for (const row of this.changes.before.keys()) {
      const value = this.values[row] ?? Number.NaN;
      setBit(into, row, value >= from && value <= to);
    }
    return true;
  }

  fillMembers(): boolean {
    return false;
  }

  keysAt(rows: Uint32Array, keyOf: (fact: Fact) => number, into: Float64Array): void {
    const { values } = this;
    const missing = keyOf(undefined);
    for (let at = 0; at < rows.length; at++) {
      const value = values[rows[at] ?? 0] ?? Number.NaN;
      into[at] = Number.isNaN(value) ? missing : keyOf(value);
    }
  }

  get different(): undefined {
    return undefined;
  }

  get bytes(): number {
    const bits = this.known.byteLength * (1 + this.thresholds.length);
    return this.values.byteLength + this.order.byteLength + this.sorted.byteLength + bits;
  }

  get stale(): number {
    return this.changes.size;
  }

  reindex(): void {
    if (this.changes.tooMany || this.order.length === 0) {
      this.order = sortRows(this.values);
      this.sortedInOrder();
    } else {
      this.moveRows();
      this.moveThresholds();
    }
    this.changes.clear();
  }

  image(rows: number, isIndexed: boolean): ColumnImage {
    const values = this.values.subarray(0, rows);
    if (!isIndexed) return { kind: 'numbers', values, order: new Uint32Array(0) };
    if (this.changes.size > 0 || this.order.length === 0) this.reindex();
    return { kind: 'numbers', values, order: this.order };
  }

  restore(image: ColumnImage, room: number): void {
    if (image.kind !== 'numbers') throw new Error('this is the image of another kind of column');
    const { values, order } = image;
    this.values = grown(values, room);
    this.values.fill(Number.NaN, values.length);
    this.known = new Int32Array(wordsFor(room));
    for (const row of order) this.known[row >>> 5] = (this.known[row >>> 5] ?? 0) | (1 << (row & 31));
    // A copy, as what was read may be a part of larger memory, which the index would grow into.
    this.order = order.slice();
    this.sortedInOrder();
    this.changes.clear();
  }

  append(image: ColumnImage, from: number): void {
    if (image.kind !== 'numbers') throw new Error('this is the image of another kind of column');
    this.values.set(image.values, from);
    for (let at = 0; at < image.values.length; at++)
      if (!Number.isNaN(image.values[at])) setBit(this.known, from + at, true);
    this.changes.addAll();
  }

  /** Takes the few rows that changed out of the order and puts them in where they belong now. */
  private moveRows(): void {
    const { values, changes } = this;
    const value = (row: number): number => values[row] ?? Number.NaN;
    const out = Uint32Array.from(
      [...changes.before].filter(([, before]) => !Number.isNaN(before)),
      ([row, before]) => this.placeInOrder(before, row),
    ).sort();
    const moved = [...changes.before.keys()]
      .filter((row) => !Number.isNaN(value(row)))
      .sort((left, right) => value(left) - value(right) || left - right);
    const before = Uint32Array.from(moved, (row) => this.placeInOrder(value(row), row));
    const splice = prepareSplice(this.order.length, out, before);
    this.order = spliced(this.order, splice, values.length);
    this.sorted = spliced(this.sorted, splice, values.length);
    for (const [index, row] of moved.entries()) {
      const place = splice.gaps[index] ?? 0;
      this.order[place] = row;
      this.sorted[place] = value(row);
    }
  }

  /** The place of a value at a row among all, whether it is there or not. */
  private placeInOrder(value: number, row: number): number {
    return placeOf(this.order, row, lowerBound(this.sorted, value), upperBound(this.sorted, value));
  }

  private sortedInOrder(): void {
    this.sorted = new Float64Array(this.order.length);
    for (let at = 0; at < this.order.length; at++)
      this.sorted[at] = this.values[this.order[at] ?? 0] ?? Number.NaN;
    this.chooseThresholds();
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
    for (const [row, before] of this.changes.before) {
      const now = this.values[row] ?? Number.NaN;
      for (const { value, below } of this.thresholds)
        if (now < value !== before < value) setBit(below, row, now < value);
    }
    for (const threshold of this.thresholds) threshold.place = lowerBound(this.sorted, threshold.value);
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
