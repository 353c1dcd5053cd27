/** One bit a row, 32 a word. Bits past the last row may stand either way until they are masked. */
export type Bits = Uint32Array;

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

/** How many bits are set in both. */
export function countAnd(left: Bits, right: Bits): number {
  let sum = 0;
  for (let at = 0; at < left.length; at++) {
    let word = (left[at] ?? 0) & (right[at] ?? 0);
    word -= (word >>> 1) & 0x55555555;
    word = (word & 0x33333333) + ((word >>> 2) & 0x33333333);
    sum += Math.imul((word + (word >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
  }
  return sum;
}

export function and(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at++) into[at] = (into[at] ?? 0) & (other[at] ?? 0);
}

export function or(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at++) into[at] = (into[at] ?? 0) | (other[at] ?? 0);
}

export function andNot(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at++) into[at] = (into[at] ?? 0) & ~(other[at] ?? 0);
}

export function not(into: Bits): void {
  for (let at = 0; at < into.length; at++) into[at] = ~(into[at] ?? 0);
}

/** The rows whose bit is set, in order. */
export function* rowsOf(bits: Bits): Generator<number> {
  for (let at = 0; at < bits.length; at++)
    for (let word = bits[at] ?? 0; word !== 0; word &= word - 1)
      yield (at << 5) + (31 - Math.clz32(word & -word));
}
