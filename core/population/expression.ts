import type { Bits } from './bits.ts';
import { plainOperations, type WordOperations, wasmOperations } from './words.ts';

/** A condition over bits that are there already: what is left of it once its tests are answered. */
export type Expression =
  | { kind: 'bits'; bits: Bits; negated: boolean }
  | { kind: 'all' | 'any'; parts: readonly Expression[]; negated: boolean };

export function negate(expression: Expression): Expression {
  return { ...expression, negated: !expression.negated };
}

export const everyone: Expression = { kind: 'all', parts: [], negated: false };
export const nobody: Expression = { kind: 'any', parts: [], negated: false };

/** How many words are processed at a time, so that intermediate results stay in the CPU cache. */
const blockWords = 2048;
const blockBytes = 4 * blockWords;

/**
 * Evaluates expressions block by block in preallocated memory. Each nesting level of groups uses one block, so a fixed number
 * of blocks is enough for any expression up to that depth.
 */
export class Evaluator {
  private readonly blocks: readonly Int32Array[];

  constructor(private readonly words: WordOperations) {
    const count = Math.floor(words.memory.byteLength / blockBytes);
    this.blocks = Array.from(
      { length: count },
      (_, index) => new Int32Array(words.memory, index * blockBytes, blockWords),
    );
  }

  /** How many rows of a mask an expression holds for. */
  count(expression: Expression, mask: Bits): number {
    let count = 0;
    for (let from = 0; from < mask.length; from += blockWords) {
      const length = Math.min(blockWords, mask.length - from);
      this.write(expression, 0, from, length);
      // Words past the end are none of the mask's.
      if (length < blockWords) this.block(1).fill(0);
      this.load(mask, 1, from, length);
      count += this.words.countBoth(0, blockBytes, bytesOf(length));
    }
    return count;
  }

  /** The rows that an expression holds for, as bits of their own. */
  rows(expression: Expression, words: number): Bits {
    const rows = new Int32Array(words);
    for (let from = 0; from < words; from += blockWords) {
      const length = Math.min(blockWords, words - from);
      this.write(expression, 0, from, length);
      rows.set(length === blockWords ? this.block(0) : this.block(0).subarray(0, length), from);
    }
    return rows;
  }

  /** Joins bits into others, word by word. */
  join(into: Bits, other: Bits, how: 'and' | 'andNot' | 'or' | 'xor'): void {
    for (let from = 0; from < into.length; from += blockWords) {
      const length = Math.min(blockWords, into.length - from);
      this.load(into, 0, from, length);
      this.load(other, 1, from, length);
      this.words[how](0, 0, blockBytes, bytesOf(length));
      into.set(length === blockWords ? this.block(0) : this.block(0).subarray(0, length), from);
    }
  }

  /** Turns every bit. */
  turn(bits: Bits): void {
    for (let from = 0; from < bits.length; from += blockWords) {
      const length = Math.min(blockWords, bits.length - from);
      this.load(bits, 0, from, length);
      this.words.not(0, 0, bytesOf(length));
      bits.set(length === blockWords ? this.block(0) : this.block(0).subarray(0, length), from);
    }
  }

  /** Writes the rows of an expression into a block. */
  private write(expression: Expression, block: number, from: number, length: number): void {
    const { words } = this;
    const bytes = bytesOf(length);
    const address = block * blockBytes;
    if (expression.kind === 'bits') {
      this.load(expression.bits, block, from, length);
      if (expression.negated) words.not(address, address, bytes);
      return;
    }
    const all = expression.kind === 'all';
    const [first] = expression.parts;
    if (!first) {
      this.block(block).fill(all === expression.negated ? 0 : -1);
      return;
    }
    this.write(first, block, from, length);
    const next = address + blockBytes;
    for (let at = 1; at < expression.parts.length; at++) {
      const part = expression.parts[at];
      if (!part) continue;
      const negated = part.kind === 'bits' && part.negated;
      if (part.kind === 'bits') this.load(part.bits, block + 1, from, length);
      else this.write(part, block + 1, from, length);
      if (all) words[negated ? 'andNot' : 'and'](address, address, next, bytes);
      else words[negated ? 'orNot' : 'or'](address, address, next, bytes);
    }
    if (expression.negated) words.not(address, address, bytes);
  }

  private load(bits: Bits, block: number, from: number, length: number): void {
    this.block(block).set(bits.subarray(from, from + length));
  }

  private block(index: number): Int32Array {
    const block = this.blocks[index];
    if (!block) throw new Error(`nested deeper than ${this.blocks.length}`);
    return block;
  }
}

function bytesOf(words: number): number {
  return 4 * ((words + 3) & ~3);
}

/** The one that everything here uses; the memory it works in is too small to count. */
export const evaluator = new Evaluator(wasmOperations() ?? plainOperations());
