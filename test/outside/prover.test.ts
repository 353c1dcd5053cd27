import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { never } from '../../core/analysis/diagrams/diagrams.ts';
import { World } from '../../core/analysis/world.ts';
import { dayNumber } from '../../core/attributes/calendar.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { all, type Condition, not, test } from '../../core/conditions/condition.ts';
import { Membership } from '../../core/deciding/membership.ts';
import { attributes, noon, randomConditionOf } from '../random-conditions.ts';
import { provedFaces } from './proved-faces.ts';
import { randomDocument, type Theme } from './random-documents.ts';
import { type SmtSolver, smtSolver } from './z3.ts';
import { faceSolver } from './z3-documents.ts';

// z3-solver (SMT over integers and reals) as an independent prover of what can be true and what lies inside what.
const today = dayNumber('2026-11-24') ?? 0;
const own = attributes
  .filter(({ id }) => ['tier', 'plan', 'tags', 'visits', 'renewal', 'vip'].includes(id))
  .map((attribute) =>
    attribute.type === 'set'
      ? { ...attribute, exclusiveGroups: [{ name: 'outcome', members: ['a', 'b'] }] }
      : attribute,
  );
const whole = {
  id: 'orders',
  source: 'contact',
  label: 'orders',
  description: '',
  type: 'number',
  whole: true,
} as const;
const all_ = [...own, whole];
const catalogue = new Catalogue(all_, 'UTC');
// Days that come round each year have no plain arithmetic; those are held to every day in their own tests.
const conditions = randomConditionOf(all_).filter(
  (condition) => !JSON.stringify(condition).includes('anniversary'),
);

function provable(condition: Condition): boolean {
  const world = new World({
    catalogue,
    membership: new Membership(catalogue, []),
    audiences: [],
    used: [],
    channel: 'page',
    instant: noon,
    conditions: [condition],
    // Now, as the solver is asked: a later moment would move what counts from today.
    given: [test('moment', 'before', '2026-11-24T12:01')],
  });
  return world.possibly(world.condition(condition)) !== never;
}

let solver: SmtSolver;
beforeAll(async () => {
  solver = await smtSolver(all_, today);
});
afterAll(() => solver.stop());

describe('z3 agrees', () => {
  it('on what can be true, and what lies inside what', async () => {
    for (const [one, two] of fc.sample(fc.tuple(conditions, conditions), { numRuns: 120, seed: 11 })) {
      expect(`${JSON.stringify(one)} ${provable(one)}`).toBe(
        `${JSON.stringify(one)} ${await solver.canBeTrue(one)}`,
      );
      const outside = all(one, not(two));
      expect(`${JSON.stringify(outside)} ${provable(outside)}`).toBe(
        `${JSON.stringify(outside)} ${await solver.canBeTrue(outside)}`,
      );
    }
  });

  it('on whole numbers, days and exclusive values that leave nothing between', async () => {
    for (const condition of [
      all(test('orders', 'more-than', 2), test('orders', 'fewer-than', 3)),
      all(test('visits', 'more-than', 2), test('visits', 'fewer-than', 3)),
      all(test('tags', 'includes-all', 'a', 'c'), test('tags', 'includes-any', 'b')),
      all(test('renewal', 'after', '2026-11-24'), test('renewal', 'before', '2026-11-25')),
      all(test('renewal', 'within-next', 0), test('renewal', 'on', '2026-11-24')),
    ])
      expect([condition, provable(condition)]).toEqual([condition, await solver.canBeTrue(condition)]);
  });
});

/**
 * How many documents are tried, and from which on. A long run goes in several processes, as the memory of a solver only
 * grows: DOCUMENTS=500 FIRST_DOCUMENT=1, then FIRST_DOCUMENT=251, and so on.
 */
const tried = Number(process.env.DOCUMENTS ?? 200);
const firstSeed = Number(process.env.FIRST_DOCUMENT ?? 1);

describe('z3 finds the same faces', () => {
  it.each<[string, readonly Theme[]]>([
    ['sets of thirty, whole numbers, tiers and sign-in', ['tags', 'orders', 'tier', 'signed-in']],
    [
      'dates, recurring windows and what else there is',
      ['tags', 'orders', 'tier', 'renewal', 'moment', 'signed-in'],
    ],
  ])('of documents with nested slots about %s', { timeout: 7_200_000 }, async (_name, themes) => {
    let faceProver = await faceSolver();
    for (let seed = firstSeed; seed < firstSeed + tried / 2; seed++) {
      // The memory of one solver only ever grows.
      if (seed % 50 === 0) {
        await faceProver.stop();
        faceProver = await faceSolver();
      }
      const document = randomDocument(100_000 + seed, themes);
      const { faces, complete, wrong } = provedFaces(document);
      const said = `seed ${seed}: ${JSON.stringify(document)}`;
      expect(complete, said).toBe(true);
      expect(wrong, said).toEqual([]);
      expect(faces, said).toEqual([...(await faceProver.faces(document))].sort());
    }
    await faceProver.stop();
  });
});
