import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { prepareSplice, spliced } from './splice.ts';

/** Elements, which of them go, and how many are put before each place. */
const change = fc.array(fc.record({ goes: fc.boolean(), gaps: fc.nat({ max: 3 }) }), { maxLength: 60 });

describe('a splice in place', () => {
  it('leaves what an array put together anew would hold, with and without room', () => {
    fc.assert(
      fc.property(change, fc.nat({ max: 3 }), fc.nat({ max: 200 }), (places, atEnd, room) => {
        const wanted: number[] = [];
        const out: number[] = [];
        const before: number[] = [];
        for (const [place, { goes, gaps }] of places.entries()) {
          for (let gap = 0; gap < gaps; gap++) {
            wanted.push(1000 + before.length);
            before.push(place);
          }
          if (goes) out.push(place);
          else wanted.push(place);
        }
        for (let gap = 0; gap < atEnd; gap++) {
          wanted.push(1000 + before.length);
          before.push(places.length);
        }
        const splice = prepareSplice(places.length, Uint32Array.from(out), Uint32Array.from(before));
        const held = new Float64Array(places.length + room).subarray(0, places.length);
        held.set([...places.keys()]);
        const made = spliced(held, splice, places.length + room);
        for (const [index, place] of splice.gaps.entries()) made[place] = 1000 + index;
        expect([...made]).toEqual(wanted);
      }),
      { numRuns: 1000 },
    );
  });

  it('uses the memory that is there', () => {
    const held = new Uint32Array(8).subarray(0, 4);
    held.set([1, 2, 3, 4]);
    const made = spliced(held, prepareSplice(4, Uint32Array.of(0), Uint32Array.of(2, 4)), 8);
    expect(made.buffer).toBe(held.buffer);
    expect(made.length).toBe(5);
    expect([made[0], made[2], made[3]]).toEqual([2, 3, 4]);
  });
});
