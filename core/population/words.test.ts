import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import wabt from 'wabt';
import { Evaluator, type Expression } from './expression.ts';
import { plainOperations, wasmOperations } from './words.ts';
import { wordsWasm } from './words-wasm.ts';

const wasm = wasmOperations();
if (!wasm) throw new Error('WebAssembly does not run here');
const [fast, plain] = [new Evaluator(wasm), new Evaluator(plainOperations())];

// 5,000 words are two whole blocks and a part of one.
const words = 5000;
const bits = fc.integer().map((seed) => {
  const made = new Int32Array(words);
  let state = seed;
  for (let at = 0; at < words; at++) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
    made[at] = state ^ (state >>> 13);
  }
  return made;
});
const { expression } = fc.letrec<{ expression: Expression }>((tie) => ({
  expression: fc.oneof(
    { depthSize: 'small' },
    fc.record({ kind: fc.constant('bits' as const), bits, negated: fc.boolean() }),
    fc.record({
      kind: fc.constantFrom('all' as const, 'any' as const),
      parts: fc.array(tie('expression'), { maxLength: 4 }),
      negated: fc.boolean(),
    }),
  ),
}));

function wordOf(one: Expression, at: number): number {
  if (one.kind === 'bits') return one.negated ? ~(one.bits[at] ?? 0) : (one.bits[at] ?? 0);
  const parts = one.parts.map((part) => wordOf(part, at));
  const joined =
    one.kind === 'all'
      ? parts.reduce((all, part) => all & part, -1)
      : parts.reduce((any, part) => any | part, 0);
  return one.negated ? ~joined : joined;
}

it('sixteen bytes at a time and a word at a time find the same rows as a reading word by word', () => {
  fc.assert(
    fc.property(expression, bits, (one, mask) => {
      const wanted = Int32Array.from({ length: words }, (_, at) => wordOf(one, at));
      expect(Buffer.compare(Buffer.from(fast.rows(one, words).buffer), Buffer.from(wanted.buffer))).toBe(0);
      expect(Buffer.compare(Buffer.from(plain.rows(one, words).buffer), Buffer.from(wanted.buffer))).toBe(0);
      let count = 0;
      for (let at = 0; at < words; at++)
        count += (((wanted[at] ?? 0) & (mask[at] ?? 0)) >>> 0).toString(2).replaceAll('0', '').length;
      expect([fast.count(one, mask), plain.count(one, mask)]).toEqual([count, count]);
    }),
    { numRuns: 60 },
  );
});

it.each(['and', 'andNot', 'or', 'xor'] as const)('joins whole bits by %s', (how) => {
  fc.assert(
    fc.property(bits, bits, (left, right) => {
      const joins = {
        and: (l: number, r: number) => l & r,
        andNot: (l: number, r: number) => l & ~r,
        or: (l: number, r: number) => l | r,
        xor: (l: number, r: number) => l ^ r,
      };
      const wanted = left.map((word, at) => joins[how](word, right[at] ?? 0));
      for (const evaluator of [fast, plain]) {
        const into = left.slice();
        evaluator.join(into, right, how);
        expect(Buffer.compare(Buffer.from(into.buffer), Buffer.from(wanted.buffer))).toBe(0);
      }
    }),
    { numRuns: 20 },
  );
});

it('the module that ships is the text of words.wat, compiled', async () => {
  const { parseWat } = await wabt();
  const text = readFileSync(new URL('words.wat', import.meta.url), 'utf8');
  const { buffer } = parseWat('words.wat', text, { simd: true }).toBinary({});
  expect(Buffer.from(buffer).toString('base64')).toBe(wordsWasm);
});
