import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, noon } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, not, test } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import { demandsOf, smallestContradiction } from './contradiction.ts';
import { never } from './diagrams/diagrams.ts';
import { World } from './world.ts';

const few = attributes
  .filter(({ id }) => ['tier', 'tags', 'visits', 'vip'].includes(id))
  .map((attribute) => (attribute.type === 'number' ? { ...attribute, whole: true } : attribute));
const catalogue = new Catalogue(few, 'UTC');

/** The parts that contradict each other, of those that all have to hold; and whether some of them do. */
function found(parts: readonly Condition[]) {
  const condition = all(...parts);
  const world = new World({
    catalogue,
    membership: new Membership(catalogue, []),
    audiences: [],
    used: [],
    channel: 'page',
    instant: noon,
    conditions: [condition],
  });
  const core = smallestContradiction(
    demandsOf(condition, () => undefined),
    world.possible,
    world,
  );
  const contradict = (some: readonly Condition[]) => world.possibly(world.condition(all(...some))) === never;
  return { core: core?.map(({ part }) => part), contradict };
}

const part = fc.oneof(
  fc.constantFrom('dusk', 'twilight', 'midnight').map((tier) => test('tier', 'is-one-of', tier)),
  fc.constantFrom('dusk', 'twilight').map((tier) => not(test('tier', 'is-one-of', tier))),
  fc.integer({ min: 0, max: 9 }).map((visits) => test('visits', 'at-least', visits)),
  fc.integer({ min: 0, max: 9 }).map((visits) => test('visits', 'at-most', visits)),
  fc.constantFrom('is-yes', 'is-no').map((op) => test('vip', op)),
  fc.constantFrom('a', 'b').map((tag) => test('tags', 'includes-any', tag)),
);

describe('the smallest contradiction', () => {
  it('is one, has nothing in it that it does not need, and none is smaller (property)', () => {
    fc.assert(
      fc.property(fc.array(part, { minLength: 2, maxLength: 7 }), (parts) => {
        const { core, contradict } = found(parts);
        expect(core !== undefined).toBe(contradict(parts));
        if (!core) return;
        expect(contradict(core)).toBe(true);
        for (const one of core) expect(contradict(core.filter((other) => other !== one))).toBe(false);
        const smaller = parts.flatMap((one, at) =>
          parts.slice(at + 1).flatMap((two) => (contradict([one, two]) ? [[one, two]] : [])),
        );
        if (core.length > 2) expect(smaller).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });

  it('is one of three where there is one, though another of four comes before it', () => {
    const yes = test('vip', 'is-yes');
    const dusk = test('tier', 'is-one-of', 'dusk');
    const [b, d] = [any(not(yes), dusk), any(not(yes), not(dusk))];
    const parts = [any(yes, dusk), b, any(yes, not(dusk)), d, yes];
    expect(found(parts).core).toEqual([b, d, yes]);
  });

  it('is found among more parts than are tried three by three, and still needs all that is in it', () => {
    // Of 60 tests, four leave no number of visits: not 5, not 6, at least 5, at most 6.
    const idle = Array.from({ length: 56 }, (_, at) => not(test('visits', 'equals', 100 + at)));
    const four = [
      not(test('visits', 'equals', 5)),
      test('visits', 'at-least', 5),
      not(test('visits', 'equals', 6)),
      test('visits', 'at-most', 6),
    ];
    const { core } = found([...idle.slice(0, 20), ...four.slice(0, 2), ...idle.slice(20), ...four.slice(2)]);
    expect(new Set(core?.map((one) => JSON.stringify(one)))).toEqual(
      new Set(four.map((one) => JSON.stringify(one))),
    );
    expect(found(idle).core).toBeUndefined();
  });
});
