import { wordsWasm } from './words-wasm.ts';

/** Joins and counts blocks of words in a memory; addresses and lengths in bytes, lengths a multiple of 16 and not 0. */
export interface WordOperations {
  readonly memory: ArrayBufferLike;
  and(into: number, left: number, right: number, bytes: number): void;
  /** Left and not right. */
  andNot(into: number, left: number, right: number, bytes: number): void;
  or(into: number, left: number, right: number, bytes: number): void;
  /** Left or not right. */
  orNot(into: number, left: number, right: number, bytes: number): void;
  xor(into: number, left: number, right: number, bytes: number): void;
  not(into: number, of: number, bytes: number): void;
  /** How many bits are set in both. */
  countBoth(left: number, right: number, bytes: number): number;
}

/** Bytes of the memory of either kind. */
const memoryBytes = 16 * 65_536;

/** The operations of words.wat, sixteen bytes at a time; undefined where WebAssembly may not run. */
export function wasmOperations(): WordOperations | undefined {
  try {
    const bytes = Uint8Array.from(atob(wordsWasm), (char) => char.charCodeAt(0));
    const { memory, and, andNot, or, orNot, xor, not, countBoth } = new WebAssembly.Instance(
      new WebAssembly.Module(bytes),
    ).exports;
    if (!(memory instanceof WebAssembly.Memory)) return undefined;
    const call = (name: unknown) => {
      if (typeof name !== 'function') throw new Error('words.wat lacks a function');
      return (...numbers: number[]): number => Reflect.apply(name, undefined, numbers);
    };
    return {
      memory: memory.buffer,
      and: call(and),
      andNot: call(andNot),
      or: call(or),
      orNot: call(orNot),
      xor: call(xor),
      not: call(not),
      countBoth: call(countBoth),
    };
  } catch {
    return undefined;
  }
}

/** The same in plain JavaScript, a word at a time. */
export function plainOperations(): WordOperations {
  const memory = new ArrayBuffer(memoryBytes);
  const words = new Int32Array(memory);
  const joined =
    (join: (left: number, right: number) => number) =>
    (into: number, left: number, right: number, bytes: number): void => {
      for (let at = 0; at < bytes >> 2; at++)
        words[(into >> 2) + at] = join(words[(left >> 2) + at] ?? 0, words[(right >> 2) + at] ?? 0);
    };
  const not = (into: number, of: number, bytes: number): void => {
    for (let at = 0; at < bytes >> 2; at++) words[(into >> 2) + at] = ~(words[(of >> 2) + at] ?? 0);
  };
  return {
    memory,
    and: joined((left, right) => left & right),
    andNot: joined((left, right) => left & ~right),
    or: joined((left, right) => left | right),
    orNot: joined((left, right) => left | ~right),
    xor: joined((left, right) => left ^ right),
    not,
    countBoth(left, right, bytes) {
      let count = 0;
      for (let at = 0; at < bytes >> 2; at++)
        count += bitsIn((words[(left >> 2) + at] ?? 0) & (words[(right >> 2) + at] ?? 0));
      return count;
    },
  };
}

function bitsIn(word: number): number {
  const pairs = word - ((word >>> 1) & 0x55555555);
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333);
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}
