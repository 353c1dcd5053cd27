import fc from 'fast-check';
import { expect, it } from 'vitest';
import { smallest } from './smallest.ts';

it('is the beginning of what sorting gives', () => {
  fc.assert(
    fc.property(fc.array(fc.nat({ max: 20 }), { maxLength: 200 }), fc.nat({ max: 60 }), (keys, most) => {
      const order = (one: number, two: number) => (keys[one] ?? 0) - (keys[two] ?? 0) || one - two;
      const wanted = [...keys.keys()].sort(order).slice(0, most);
      expect(smallest(keys.length, most, (one, two) => order(one, two) < 0)).toEqual(wanted);
    }),
    { numRuns: 500 },
  );
});
