import fc from 'fast-check';
import { expect, it } from 'vitest';
import { kindsOf } from './classify.ts';

/** Pseudorandom words, the same for the same seed (xorshift, Marsaglia 2003). */
function randomWords(seed: number, length: number, among: number): Int32Array {
  let state = seed | 1;
  const next = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return state;
  };
  // The more words are and-ed, the fewer bits are set.
  return Int32Array.from({ length }, () => {
    let word = -1;
    for (let at = 0; at < among; at++) word &= next();
    return word;
  });
}

it('contacts are counted by the sets they are in, however many kinds there are (property)', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(0, 1, 3, 12, 31, 32, 33, 70),
      fc.integer({ min: 0, max: 120 }),
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.integer({ min: 1, max: 4 }),
      (sets, words, seed, sparse) => {
        const members = Array.from({ length: sets }, (_, at) => randomWords(seed + 7919 * at, words, sparse));
        const everybody = randomWords(seed ^ 0x5bd1e995, words, 1);
        const expected = new Map<string, { count: number; first: number }>();
        for (let row = 0; row < 32 * words; row++) {
          const isIn = (bits: Int32Array) => ((bits[row >> 5] ?? 0) >>> (row & 31)) & 1;
          if (!isIn(everybody)) continue;
          const kind = members.map(isIn).join('');
          const known = expected.get(kind);
          if (known) known.count++;
          else expected.set(kind, { count: 1, first: row });
        }
        const { length, counts, firsts, words: found, wordsPerKind } = kindsOf(members, everybody);
        expect(length).toBe(expected.size);
        for (let kind = 0; kind < length; kind++) {
          const held = members
            .map((_, set) => ((found[kind * wordsPerKind + (set >> 5)] ?? 0) >>> (set & 31)) & 1)
            .join('');
          expect([held, expected.get(held)]).toEqual([held, { count: counts[kind], first: firsts[kind] }]);
        }
      },
    ),
    { numRuns: 60 },
  );
});
