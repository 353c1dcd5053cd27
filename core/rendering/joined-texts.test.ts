import fc from 'fast-check';
import { expect, it } from 'vitest';
import { JoinedTexts } from './joined-texts.ts';

it('joins any pieces, however many were joined before', () => {
  const piece = fc.constantFrom('', 'a', 'b', 'ab', 'ba', 'a long piece');
  fc.assert(
    fc.property(fc.array(fc.array(piece, { maxLength: 5 }), { maxLength: 30 }), (texts) => {
      const joined = new JoinedTexts(20);
      for (const pieces of texts) expect(joined.of(pieces)).toBe(pieces.join(''));
    }),
  );
});

it('takes as many steps in memory as it was told, whatever it is asked for', () => {
  const joined = new JoinedTexts(100);
  for (let n = 0; n < 10_000; n++) joined.of(['Hello ', `Person ${n}`, '.']);
  let steps = 0;
  const count = (at: { next: Map<string, never> }) => {
    for (const next of at.next.values()) {
      steps++;
      count(next);
    }
  };
  count(Reflect.get(joined, 'first'));
  expect(steps).toBeLessThanOrEqual(100);
});
