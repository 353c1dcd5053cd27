import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NameOrder } from './name-order.ts';

const { compare } = new Intl.Collator('en', { sensitivity: 'base' });
// Few and short, so that many are alike.
const name = fc.constantFrom('', 'a', 'A', 'b', 'ba', 'é', 'z');
const change = fc.tuple(fc.integer({ min: 1, max: 40 }), fc.option(name, { nil: undefined }));

/** Everybody by name, and by id where names are alike. */
function sorted(names: ReadonlyMap<number, string>): number[] {
  return [...names.keys()].sort(
    (one, other) => compare(names.get(one) ?? '', names.get(other) ?? '') || one - other,
  );
}

describe('the order of names', () => {
  it('is that of sorting everybody anew, whoever came, changed or went', () => {
    const rounds = fc.array(fc.array(change, { maxLength: 12 }), { maxLength: 12 });
    fc.assert(
      fc.property(fc.array(name, { maxLength: 30 }), rounds, (first, changes) => {
        const names = new Map(first.map((one, index) => [index + 1, one]));
        const order = new NameOrder(Uint32Array.from(sorted(names)));
        for (const round of changes) {
          for (const [id, now] of round)
            if (now === undefined) names.delete(id);
            else names.set(id, now);
          order.update(new Set(round.map(([id]) => id)), (id) => names.get(id), compare);
          const expected = sorted(names);
          for (let id = 1; id <= 45; id++) expect(order.placeOf(id)).toBe(expected.indexOf(id) + 1);
        }
      }),
      { numRuns: 300 },
    );
  });
});
