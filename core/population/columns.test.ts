import { describe, expect, it } from 'vitest';
import { Random } from '../../demo/random.ts';
import type { Fact } from '../attributes/viewer.ts';
import { rowsOf, wordsFor } from './bits.ts';
import { CodedColumn } from './coded-column.ts';
import type { Column } from './column.ts';
import { NumberColumn } from './number-column.ts';

// With this many changed rows the index is rebuilt from scratch.
const rows = 25_000;
const random = new Random(7);

const kinds: [string, () => Column, () => Fact, (fact: Fact) => boolean][] = [
  [
    'numbers',
    () => new NumberColumn(),
    () => random.pick([undefined, 0, -3, random.between(1, 900) / 4]),
    (fact) => typeof fact === 'number' && fact >= 0 && fact <= 100,
  ],
  [
    'texts',
    () => new CodedColumn(false),
    () => random.pick([undefined, 'a', 'b', `rare ${random.between(1, 5000)}`]),
    (fact) => fact === 'a' || fact === 'rare 17',
  ],
  [
    'sets',
    () => new CodedColumn(true),
    () => random.pick([undefined, ['a'], ['a', 'b'], ['b', 'c']]),
    (fact) => Array.isArray(fact) && fact.includes('a'),
  ],
];

/** The rows up to a number that a column finds by asking every value. */
function found(column: Column, holds: (fact: Fact) => boolean): number[] {
  const bits = new Int32Array(wordsFor(rows));
  column.fill(bits, holds);
  return [...rowsOf(bits)].filter((row) => row < rows);
}

function where(values: readonly Fact[], holds: (fact: Fact) => boolean): number[] {
  return values.flatMap((fact, row) => (holds(fact) ? [row] : []));
}

describe.each(kinds)('a column of %s', (name, make, value, holds) => {
  it('answers alike when few rows changed since its index was made, when most did, and when all lost their values', () => {
    const column = make();
    column.grow(rows);
    const values: Fact[] = Array.from({ length: rows }, () => undefined);
    const set = (row: number, fact: Fact) => {
      column.set(row, fact);
      values[row] = fact;
    };
    const isKnown = (fact: Fact) => fact !== undefined;
    const check = () => {
      expect(found(column, holds)).toEqual(where(values, holds));
      expect(found(column, (fact) => !holds(fact))).toEqual(where(values, (fact) => !holds(fact)));
      expect([...rowsOf(column.known)]).toEqual(where(values, isKnown));
      const rowsOfValue = new Map<string, number>();
      for (const fact of values.filter(isKnown)) {
        const key = JSON.stringify(fact);
        rowsOfValue.set(key, (rowsOfValue.get(key) ?? 0) + 1);
      }
      const counts = column.counts().map(({ fact, rows: held }) => [JSON.stringify(fact), held] as const);
      expect(new Map(counts)).toEqual(rowsOfValue);
      expect(counts.length).toBe(rowsOfValue.size);
      if (name === 'numbers') {
        const bits = new Int32Array(wordsFor(rows));
        expect(column.fillRange(bits, 0, 100)).toBe(true);
        expect([...rowsOf(bits)]).toEqual(where(values, holds));
      }
      if (name === 'sets') {
        const bits = new Int32Array(wordsFor(rows));
        expect(column.fillMembers(bits, ['a'], true)).toBe(true);
        expect([...rowsOf(bits)]).toEqual(where(values, holds));
      }
    };
    for (let row = 0; row < rows; row++) set(row, value());
    check();
    column.reindex();
    check();
    for (let change = 0; change < 300; change++) set(random.between(0, rows - 1), value());
    check();
    column.reindex();
    check();
    for (let row = 0; row < rows; row++) set(row, value());
    check();
    column.reindex();
    check();
    for (let row = 0; row < rows; row++) set(row, row % 100 === 0 ? value() : undefined);
    check();
    column.reindex();
    check();
  });
});
