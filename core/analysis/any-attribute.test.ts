import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSettings } from '../../demo/scenario.ts';
import { attributes, noon, randomConditionOf, randomViewer, tested } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf, type Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, not, test } from '../conditions/condition.ts';
import { compile } from '../conditions/evaluate.ts';
import { Decider } from '../deciding/decide.ts';
import { faceKey } from '../deciding/visibility.ts';
import type { Document } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { always, isOutcome, never } from './diagrams/diagrams.ts';
import { facesOf } from './faces.ts';
import { nearest } from './nearest.ts';
import { World } from './world.ts';

const settings = { ...demoSettings, zone: 'Europe/London' };
const catalogue = new Catalogue(attributes, settings.zone);

function worldFor(conditions: readonly Condition[], given: readonly Condition[] = [], instant = noon) {
  const audiences = conditions.map((condition, index): Audience => {
    return { id: `a${index}`, name: `a${index}`, description: '', condition };
  });
  const document: Document = {
    id: 'd',
    kind: 'page',
    name: 'd',
    slug: 'd',
    content: {
      subject: [],
      preview: [],
      body: audiences.map(({ id }) => ({
        kind: 'slot',
        id: `slot-${id}`,
        name: id,
        variants: [{ id: `variant-${id}`, audience: id, content: [] }],
        otherwise: [],
      })),
    },
  };
  const decider = new Decider({ settings, attributes, audiences, documents: [document] });
  const world = new World({
    catalogue: decider.catalogue,
    membership: decider.membership,
    audiences,
    used: audiencesOf(document.content),
    channel: 'page',
    instant,
    given,
    hasItem: true,
  });
  const faceOf = (viewer: Viewer) => faceKey(decider.decide('d', decider.facts(viewer)));
  return { world, document, faceOf, decider };
}

const possible = (condition: Condition, given: readonly Condition[] = [], instant = noon): boolean => {
  const { world } = worldFor([condition], given, instant);
  return world.possibly(world.audience('a0')) !== never;
};

describe('for tests of any attribute, of the contact, the visit, the moment and the item', () => {
  const few = fc.uniqueArray(fc.constantFrom(...tested), { minLength: 1, maxLength: 4 });
  const conditions = few.chain((some) => fc.array(randomConditionOf(some), { minLength: 1, maxLength: 3 }));

  it('faces cover every viewer with exactly one, and each invented viewer gets its face', () => {
    fc.assert(
      fc.property(conditions, fc.array(randomViewer, { minLength: 10, maxLength: 30 }), (some, viewers) => {
        const { world, document, faceOf } = worldFor(some);
        const { faces, complete } = facesOf(document.content, world);
        const keys = faces.map(({ choices }) => faceKey(choices));
        expect(complete).toBe(true);
        expect(new Set(keys).size).toBe(keys.length);
        for (const viewer of viewers) expect(keys).toContain(faceOf(viewer));
        for (const { choices, witness } of faces) expect(faceOf(witness)).toBe(faceKey(choices));
      }),
      { numRuns: 400 },
    );
  });

  it('the place of a viewer is where a condition holds as evaluation says', () => {
    fc.assert(
      fc.property(conditions, fc.array(randomViewer, { minLength: 5, maxLength: 30 }), (some, viewers) => {
        const { world } = worldFor(some);
        const { diagrams } = world;
        for (const viewer of viewers.map((one) => ({ ...one, instant: noon }))) {
          const facts = factsOf(catalogue, viewer);
          const place = world.placeOf(facts);
          for (const condition of some) {
            let node = world.condition(condition);
            while (!isOutcome(node)) {
              const level = diagrams.levelOf(node);
              node = diagrams.at(node, level, place.get(level) ?? 0);
            }
            expect(node === always).toBe(compile(condition, catalogue)(facts));
          }
        }
      }),
      { numRuns: 400 },
    );
  });

  it('a moment ties dates that are compared with fixed days and with today', () => {
    const dated = tested.filter(({ id }) => ['renewal', 'signed-up', 'moment'].includes(id));
    fc.assert(
      fc.property(
        fc.array(randomConditionOf(dated), { minLength: 1, maxLength: 3 }),
        fc.array(randomViewer, { minLength: 20, maxLength: 30 }),
        (some, viewers) => {
          const { world, document, faceOf } = worldFor(some);
          const { faces } = facesOf(document.content, world);
          const keys = faces.map(({ choices }) => faceKey(choices));
          for (const viewer of viewers) expect(keys).toContain(faceOf(viewer));
          for (const { choices, witness } of faces) expect(faceOf(witness)).toBe(faceKey(choices));
        },
      ),
      { numRuns: 200 },
    );
  });

  it('what is given holds for every invented viewer, and no face is lost that others could get', () => {
    fc.assert(
      fc.property(
        conditions,
        few.chain(randomConditionOf),
        fc.array(randomViewer, { maxLength: 30 }),
        (some, fact, viewers) => {
          const { world, document, faceOf, decider } = worldFor(some, [fact]);
          const holds = (viewer: Viewer) => compile(fact, catalogue)(factsOf(catalogue, viewer));
          const { faces } = facesOf(document.content, world);
          const keys = faces.map(({ choices }) => faceKey(choices));
          for (const { choices, witness } of faces) {
            expect(faceOf(witness)).toBe(faceKey(choices));
            expect(holds(witness)).toBe(true);
          }
          for (const viewer of viewers) if (holds(viewer)) expect(keys).toContain(faceOf(viewer));
          expect(decider.catalogue.zone).toBe(settings.zone);
        },
      ),
      { numRuns: 200 },
    );
  });

  it('says what would change an outcome wherever something could', () => {
    fc.assert(
      fc.property(few.chain(randomConditionOf), randomViewer, (condition, viewer) => {
        const { world, decider } = worldFor([condition]);
        const { diagrams } = world;
        const facts = decider.facts(viewer);
        const wanted = decider.membership.lookAs(facts) ?? !decider.membership.containsViewer('a0');
        const diagram = wanted ? world.audience('a0') : diagrams.not(world.audience('a0'));
        expect(nearest(diagram, facts, world) === undefined).toBe(world.possibly(diagram) === never);
      }),
      { numRuns: 200 },
    );
  });
});

describe('what can be and what can’t', () => {
  it.each<[string, Condition, boolean]>([
    [
      'a window within a month that lies outside it',
      all(
        test('moment', 'between', '2026-12-01T00:00', '2026-12-24T00:00'),
        test('moment-month', 'is-one-of', 'january'),
      ),
      false,
    ],
    [
      'the same in its month',
      all(
        test('moment', 'between', '2026-12-01T00:00', '2026-12-24T00:00'),
        test('moment-month', 'is-one-of', 'december'),
      ),
      true,
    ],
    [
      'a weekday in a window that has none',
      all(
        test('moment', 'between', '2026-12-01T00:00', '2026-12-03T00:00'),
        test('moment-weekday', 'is-one-of', 'sunday'),
      ),
      false,
    ],
    ['a window that is over', test('moment', 'before', '2026-11-01T00:00'), false],
    [
      'a window that recurs no more',
      test('moment', 'recurs', '2026-01-02T20:00', 60, 'FREQ=WEEKLY;UNTIL=20260301T000000Z'),
      false,
    ],
    [
      'a window that recurs once more',
      test('moment', 'recurs', '2026-11-27T20:00', 60, 'FREQ=DAILY;COUNT=1'),
      true,
    ],
    [
      'night across midnight in the afternoon',
      all(test('moment-time', 'between', '22:00', '06:00'), test('moment-time', 'between', '12:00', '18:00')),
      false,
    ],
    [
      'winter in the north and in the south',
      all(
        test('moment-season-north', 'is-one-of', 'winter'),
        test('moment-season-south', 'is-one-of', 'winter'),
      ),
      false,
    ],
    [
      'an address in two ranges, one in the other',
      all(
        test('last-address', 'in-range', '203.0.113.0/24'),
        test('last-address', 'in-range', '203.0.113.128/25'),
      ),
      true,
    ],
    [
      'an address in two ranges apart',
      all(
        test('last-address', 'in-range', '203.0.113.0/25'),
        test('last-address', 'in-range', '203.0.113.128/25'),
      ),
      false,
    ],
    [
      'first of all German, and no German',
      all(test('speaks', 'prefers', 'de'), test('speaks', 'accepts-none', 'de')),
      false,
    ],
    [
      'a path like two patterns',
      all(test('last-page', 'matches', '/guides/*'), test('last-page', 'matches', '**/moon')),
      true,
    ],
    [
      'a path like a pattern that a star does not reach',
      all(test('last-page', 'matches', '/guides/*'), test('last-page', 'is-one-of', '/guides/a/b')),
      false,
    ],
    [
      'a text that starts and ends apart and is short',
      all(test('city', 'is-one-of', 'haven'), test('city', 'starts-with', 'lark')),
      false,
    ],
    [
      'parts that overlap',
      all(
        test('city', 'starts-with', 'abc'),
        test('city', 'ends-with', 'bcd'),
        not(test('city', 'contains', 'cb')),
      ),
      true,
    ],
    [
      'first here, and for the third time',
      all(test('visit-returning', 'is-no'), test('visit-count', 'at-least', 3)),
      false,
    ],
    [
      'mine, and by somebody from elsewhere',
      all(
        test('author', 'same-as', 'city'),
        test('author', 'is-one-of', 'Larkhaven'),
        test('city', 'is-one-of', 'Tarnley'),
      ),
      false,
    ],
    [
      'mine and from where I am',
      all(test('author', 'same-as', 'city'), test('city', 'contains', 'lark')),
      true,
    ],
    [
      'not mine though both from one place',
      all(
        not(test('author', 'same-as', 'city')),
        test('author', 'is-one-of', 'Larkhaven'),
        test('city', 'is-one-of', 'Larkhaven'),
      ),
      false,
    ],
    [
      'for my tier, and I have none',
      all(test('tiers-for', 'includes-own', 'tier'), test('tier', 'has-no-value')),
      false,
    ],
    [
      'renewing soon, in a window when the date is not near',
      all(
        test('renewal', 'on', '2027-06-01'),
        test('renewal', 'within-next', 7),
        test('moment', 'before', '2027-05-01T00:00'),
      ),
      false,
    ],
    [
      'renewing soon, when its time has come',
      all(
        test('renewal', 'on', '2027-06-01'),
        test('renewal', 'within-next', 7),
        test('moment', 'from', '2027-05-01T00:00'),
      ),
      true,
    ],
    [
      'a birthday that is long past, and soon again',
      all(test('renewal', 'before', '1990-01-01'), test('renewal', 'anniversary-within', 3)),
      true,
    ],
    [
      'a birthday within a week of a fixed day elsewhere in the year',
      all(
        test('renewal', 'on', '1990-06-01'),
        test('renewal', 'anniversary-within', 7),
        test('moment', 'before', '2027-05-01T00:00'),
      ),
      false,
    ],
  ])('%s', (_name, condition, is) => {
    expect(possible(condition)).toBe(is);
  });

  it('knows what an email has not: a visit, and anybody who is signed in', () => {
    const condition = any(test('visit-device', 'has-value'), test('signed-in', 'is-yes'));
    const audiences: Audience[] = [{ id: 'a', name: 'a', description: '', condition }];
    const decider = new Decider({ settings, attributes, audiences, documents: [] });
    const { membership } = decider;
    const world = new World({
      catalogue,
      membership,
      audiences,
      used: ['a'],
      channel: 'email',
      instant: noon,
    });
    expect(world.possibly(world.audience('a'))).toBe(never);
  });
});
