import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, noon, randomConditionOf } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import { never } from './diagrams/diagrams.ts';
import { someViewers } from './search.ts';
import { World } from './world.ts';

const few = attributes.filter(({ id }) => ['tier', 'plan', 'tags', 'visits', 'vip'].includes(id));
const catalogue = new Catalogue(few, 'UTC');

function worldOf(condition: Condition, audiences: readonly Audience[] = []): World {
  return new World({
    catalogue,
    membership: new Membership(catalogue, audiences),
    audiences: [...audiences],
    used: [],
    channel: 'page',
    instant: noon,
    conditions: [condition],
  });
}

describe('some viewers for whom a condition holds', () => {
  it('are found exactly where there are any, and it holds for all of them (property)', () => {
    const condition = randomConditionOf(few);
    fc.assert(
      fc.property(condition, condition, condition, (one, two, three) => {
        for (const asked of [
          one,
          all(one, not(two)),
          not(any(one, two)),
          all(any(one, two), any(not(one), three)),
        ]) {
          const world = worldOf(asked);
          const possible = world.possibly(world.condition(asked));
          const found = someViewers(asked, world);
          expect(found !== undefined).toBe(possible !== never);
          if (found !== undefined) {
            expect(found).not.toBe(never);
            expect(world.diagrams.implies(found, possible)).toBe(true);
          }
        }
      }),
      { numRuns: 300 },
    );
  });

  it('are found through audiences, which stand in the way as what they are', () => {
    const members: Audience = { id: 'm', name: '', description: '', condition: test('tier', 'has-value') };
    const found = (condition: Condition) =>
      someViewers(condition, worldOf(condition, [members])) !== undefined;
    expect(found(all(inAudience('m'), test('tier', 'is-one-of', 'dusk')))).toBe(true);
    expect(found(all(not(inAudience('m')), test('tier', 'has-value')))).toBe(false);
    expect(found(all(any(not(inAudience('m')), test('vip', 'is-yes')), test('tier', 'has-value')))).toBe(
      true,
    );
  });
});
