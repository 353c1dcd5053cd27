/** One bit a row, 32 a word; signed words, which engines keep as whole numbers. Bits past the last row may stand either way until they are masked. */
export type Bits = Int32Array;

export function wordsFor(rows: number): number {
  return (rows + 31) >>> 5;
}

export function setBit(bits: Bits, row: number, on: boolean): void {
  const word = row >>> 5;
  const mask = 1 << (row & 31);
  bits[word] = on ? (bits[word] ?? 0) | mask : (bits[word] ?? 0) & ~mask;
}

export function hasBit(bits: Bits, row: number): boolean {
  return (((bits[row >>> 5] ?? 0) >>> (row & 31)) & 1) === 1;
}

/** The rows whose bit is set, in order. */
export function* rowsOf(bits: Bits): Generator<number> {
  for (let at = 0; at < bits.length; at++)
    for (let word = bits[at] ?? 0; word !== 0; word &= word - 1)
      yield (at << 5) + (31 - Math.clz32(word & -word));
}
