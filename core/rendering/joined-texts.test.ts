import fc from 'fast-check';
import { expect, it } from 'vitest';
import { JoinedTexts } from './joined-texts.ts';

it('joins any pieces, however many were joined before', () => {
  const piece = fc.constantFrom('', 'a', 'b', 'ab', 'ba', 'a long piece');
  fc.assert(
    fc.property(fc.array(fc.array(piece, { maxLength: 5 }), { maxLength: 30 }), (texts) => {
      const joined = new JoinedTexts(3000);
      for (const pieces of texts) expect(joined.of(pieces)).toBe(pieces.join(''));
    }),
  );
});

it('takes no more memory than it was told, whatever it is asked for', () => {
  const joined = new JoinedTexts(100_000);
  for (let n = 0; n < 10_000; n++) joined.of(['Hello ', `Person ${n}`, '.']);
  let characters = 0;
  const count = (at: { text?: string; next: Map<string, never> }) => {
    characters += at.text?.length ?? 0;
    for (const next of at.next.values()) count(next);
  };
  count(Reflect.get(joined, 'first'));
  expect(characters).toBeGreaterThan(0);
  expect(2 * characters).toBeLessThanOrEqual(100_000);
});
