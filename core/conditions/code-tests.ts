import type { Attribute } from '../attributes/attribute.ts';
import { type Coder, coderOf } from '../attributes/codes.ts';
import type { Question } from './meaning.ts';

/** A test of a code, see codes.ts. What a kind does not need is empty; none holds for a missing value. */
export interface CodeTest {
  /** From one number to another; the same counted from today; in a table; some or all of the bits of a mask. */
  readonly kind: 'between' | 'away' | 'among' | 'has-any' | 'has-all';
  readonly from: number;
  readonly to: number;
  readonly mask: number;
  /** By code, 1 where the test holds. */
  readonly table: Uint8Array;
}

const blank: CodeTest = { kind: 'between', from: 0, to: 0, mask: 0, table: new Uint8Array(0) };

/** What a question asks of the codes of an attribute; undefined for one that needs the value itself. */
export function codeTest(question: Question, attribute: Attribute): CodeTest | undefined {
  const coder = coderOf(attribute);
  if (!coder) return undefined;
  switch (question.kind) {
    case 'known':
      return { ...blank, from: -Number.MAX_VALUE, to: Number.MAX_VALUE };
    case 'within': {
      const [only] = question.ranges;
      if (!only || question.ranges.length > 1 || only.withoutFrom || only.withoutTo) return undefined;
      return { ...blank, from: only.from, to: only.to };
    }
    case 'days-from-today':
      if (attribute.type !== 'date') return undefined;
      return { ...blank, kind: 'away', from: question.from, to: question.to };
    case 'among':
      return amongTest([...question.values].map(coder));
    case 'has-any':
    case 'has-all':
      return maskTest(question.kind, question.values, coder);
    default:
      return undefined;
  }
}

/** Codes that follow each other are one range; others are looked up. */
function amongTest(codes: readonly number[]): CodeTest | undefined {
  if (codes.length === 0 || codes.some(Number.isNaN)) return undefined;
  const [from, to] = [Math.min(...codes), Math.max(...codes)];
  if (to - from === codes.length - 1) return { ...blank, from, to };
  const table = new Uint8Array(to + 1);
  for (const code of codes) table[code] = 1;
  return { ...blank, kind: 'among', table };
}

function maskTest(
  kind: 'has-any' | 'has-all',
  members: readonly string[],
  coder: Coder,
): CodeTest | undefined {
  const bits = members.map((member) => coder([member]));
  if (bits.length === 0 || bits.some(Number.isNaN)) return undefined;
  return { ...blank, kind, mask: bits.reduce((all, bit) => all | bit, 0) };
}
