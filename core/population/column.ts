import type { Fact } from '../attributes/viewer.ts';
import type { Bits } from './bits.ts';

/** What a column holds as plain data that can be written down, of the rows that are in use. */
export type ColumnImage =
  | {
      readonly kind: 'numbers';
      /** By row; not a number where there is none. */
      readonly values: Float64Array<ArrayBuffer>;
      /** Rows with a value, by value and then by row; empty in an image without the index. */
      readonly order: Uint32Array;
    }
  | {
      readonly kind: 'codes';
      readonly codes: Uint32Array<ArrayBuffer>;
      /** By code; the first is that of a missing value. */
      readonly facts: readonly Fact[];
    };

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
  /** A number for the value at each of some rows. */
  keysAt(rows: Uint32Array, keyOf: (fact: Fact) => number, into: Float64Array): void;
  /** Every different value that occurs, with how many rows have it; without those that have none. */
  counts(): { fact: NonNullable<Fact>; rows: number }[];
  /** The different values that occur or have occurred, where the column keeps them. */
  readonly different: readonly Fact[] | undefined;
  /** The rows with a value. */
  readonly known: Bits;
  /** Bytes that it takes up. */
  readonly bytes: number;
  /** How many values were set since the index was made; infinite where there were too many to know. */
  readonly stale: number;
  /** Brings the index up to date with the values that were set since. */
  reindex(): void;
  /**
   * The values of the first rows as plain data. It may share memory with the column.
   *
   * @param isIndexed whether to include the index, which may have to be made for that
   */
  image(rows: number, isIndexed: boolean): ColumnImage;
  /** Replaces all values by those of an image, makes room for more rows; the index may be made later. */
  restore(image: ColumnImage, room: number): void;
  /** Sets the rows from one on to the values of an image. There must be room for them; the index may be made later. */
  append(image: ColumnImage, from: number): void;
}
