import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  demoAttributes,
  demoAudiences,
  demoDocuments,
  demoPeople,
  demoSettings,
} from '../../demo/scenario.ts';
import { attributes, choices, contact, instant, today } from '../../test/few-attributes.ts';
import type { Attribute } from '../attributes/attribute.ts';
import { isoDate, localDay } from '../attributes/calendar.ts';
import type { Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { Decider } from '../deciding/decide.ts';
import { faceKey, visibilityOf } from '../deciding/visibility.ts';
import type { Document, Slot } from '../documents/document.ts';
import { channelOf } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { facesOf } from './faces.ts';
import { World } from './world.ts';

const settings = { ...demoSettings, zone: 'UTC' };

// Random sound tests of every type above.
const randomTest: fc.Arbitrary<Condition> = fc.oneof(
  fc
    .subarray(['dusk', 'twilight', 'midnight'], { minLength: 1 })
    .map((tiers) => test('tier', 'is-one-of', ...tiers)),
  fc.constantFrom('dusk', 'twilight', 'midnight').map((tier) => test('tier', 'at-least', tier)),
  fc.constantFrom('is-yes', 'is-no', 'has-value').map((op) => test('vip', op)),
  fc
    .tuple(
      fc.constantFrom('includes-any', 'includes-all', 'includes-none'),
      fc.subarray(['moon', 'sun', 'family'], { minLength: 1 }),
    )
    .map(([op, values]) => test('tags', op, ...values)),
  fc
    .tuple(
      fc.constantFrom('at-least', 'at-most', 'more-than', 'fewer-than', 'equals'),
      fc.integer({ min: 0, max: 3 }),
    )
    .map(([op, number]) => test('orders', op, number)),
  fc.integer({ min: 0, max: 2 }).map((days) => test('renewal', 'within-next', days)),
  fc.integer({ min: -2, max: 2 }).map((days) => test('renewal', 'before', isoDate(today + days))),
  fc.constantFrom('Larkhaven', 'Tarnley').map((city) => test('city', 'is-one-of', city)),
  fc.constantFrom('has-value', 'has-no-value').map((op) => test('city', op)),
  fc.constantFrom('is-yes', 'is-no').map((op) => test('signed-in', op)),
);
const { condition: randomCondition } = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    randomTest,
    fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'all', of })),
    fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'any', of })),
    tie('condition').map(not),
  ),
}));
const randomAudiences = fc
  .array(randomCondition, { minLength: 1, maxLength: 5 })
  .map((conditions): Audience[] =>
    conditions.map((condition, index) => ({
      id: `a${index}`,
      name: `a${index}`,
      description: '',
      condition,
    })),
  );
const slotOf = (id: string, audiences: readonly string[], inside?: Slot): Slot => ({
  kind: 'slot',
  id,
  name: id,
  variants: audiences.map((audience, index) => ({
    id: `${id}v${index}`,
    audience,
    content: inside && index === 0 ? [inside] : [],
  })),
  otherwise: [],
});
const documentOf = (kind: Document['kind'], slots: Slot[]): Document => ({
  id: 'd',
  kind,
  name: 'd',
  slug: 'd',
  content: { subject: [], preview: [], body: slots },
});
const randomDocument = (audiences: readonly Audience[]) => {
  const list = fc.array(fc.constantFrom(...audiences.map((audience) => audience.id)), {
    minLength: 1,
    maxLength: 3,
  });
  return fc
    .tuple(fc.constantFrom('page' as const, 'email' as const), list, list, list)
    .map(([kind, one, two, inner]) =>
      documentOf(kind, [slotOf('one', one), slotOf('two', two, slotOf('inner', inner))]),
    );
};
const randomContact = fc.record(
  {
    tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
    vip: fc.boolean(),
    tags: fc
      .uniqueArray(fc.constantFrom('moon', 'sun', 'family', 'other'))
      .filter((tags) => !(tags.includes('moon') && tags.includes('sun'))),
    orders: fc.integer({ min: -1, max: 5 }),
    renewal: fc.integer({ min: -4, max: 4 }).map((days) => isoDate(today + days)),
    city: fc.constantFrom('Larkhaven', 'Tarnley', 'Elsewhere'),
  },
  { requiredKeys: [] },
);
const randomViewer = (kind: Document['kind']): fc.Arbitrary<Viewer> =>
  fc.tuple(fc.option(randomContact, { freq: 6 }), fc.boolean()).map(([known, signedIn]) => ({
    contact: kind === 'email' ? (known ?? {}) : known,
    signedIn: kind === 'page' && signedIn && known !== null,
    visit: { 'visit-device': 'computer' },
    item: null,
    instant,
  }));

function analyse(document: Document, audiences: readonly Audience[]) {
  const decider = new Decider({ settings, attributes, audiences: [...audiences], documents: [document] });
  const world = new World({
    catalogue: decider.catalogue,
    membership: decider.membership,
    audiences,
    used: audiencesOf(document.content),
    channel: channelOf(document.kind),
    instant,
  });
  const { faces, complete } = facesOf(document.content, world);
  const faceOf = (viewer: Viewer) =>
    faceKey(visibilityOf(document.content)(decider.decide(document.id, decider.facts(viewer))));
  return { faces, complete, faceOf, world, decider };
}

describe('faces of any document', () => {
  it('cover every viewer with exactly one, and each witness gets its face', () => {
    fc.assert(
      fc.property(
        randomAudiences.chain((audiences) =>
          randomDocument(audiences).chain((document) =>
            fc
              .array(randomViewer(document.kind), { minLength: 20, maxLength: 40 })
              .map((viewers) => ({ audiences, document, viewers })),
          ),
        ),
        ({ audiences, document, viewers }) => {
          const { faces, complete, faceOf } = analyse(document, audiences);
          const keys = faces.map((face) => faceKey(face.choices));
          expect(complete).toBe(true);
          expect(new Set(keys).size).toBe(keys.length);
          for (const viewer of viewers) expect(keys).toContain(faceOf(viewer));
          for (const face of faces) expect(faceOf(face.witness)).toBe(faceKey(face.choices));
        },
      ),
      { numRuns: 150 },
    );
  });

  it('are the same whether assignments are gone through one by one or not at all', () => {
    fc.assert(
      fc.property(
        randomAudiences.chain((audiences) =>
          randomDocument(audiences).map((document) => ({ audiences, document })),
        ),
        ({ audiences, document }) => {
          const { faces, faceOf, world } = analyse(document, audiences);
          const expanded = facesOf(document.content, world, 0);
          expect(expanded.complete).toBe(true);
          const keys = (of: typeof faces) => of.map((face) => faceKey(face.choices)).sort();
          expect(keys(expanded.faces)).toEqual(keys(faces));
          for (const face of expanded.faces) expect(faceOf(face.witness)).toBe(faceKey(face.choices));
          const anonymous = (of: typeof faces) => keys(of.filter((face) => face.anonymous));
          expect(anonymous(expanded.faces)).toEqual(anonymous(faces));
        },
      ),
      { numRuns: 150 },
    );
  });

  it('are those that trying every combination of values finds, no more and no fewer', () => {
    const small = fc
      .array(
        fc.oneof(
          fc
            .subarray(['dusk', 'midnight'], { minLength: 1 })
            .map((tiers) => test('tier', 'is-one-of', ...tiers)),
          fc.constantFrom('is-yes', 'is-no').map((op) => test('vip', op)),
          fc.constantFrom('moon', 'sun').map((tag) => test('tags', 'includes-any', tag)),
          fc.constantFrom('is-yes', 'is-no').map((op) => test('signed-in', op)),
        ),
        { minLength: 3, maxLength: 3 },
      )
      .map(([one, two, three]) => [
        all(one ?? all(), two ?? all()),
        not(any(two ?? any(), three ?? any())),
        one ?? all(),
      ])
      .map((conditions): Audience[] =>
        conditions.map((condition, index) => ({ id: `a${index}`, name: '', description: '', condition })),
      );
    fc.assert(
      fc.property(
        small.chain((audiences) => randomDocument(audiences).map((document) => ({ audiences, document }))),
        ({ audiences, document }) => {
          const { faces, faceOf } = analyse(document, audiences);
          const everybody: Viewer[] = [];
          const add = (known: Record<string, unknown> | null, signedIn: boolean) =>
            everybody.push({
              contact: known,
              signedIn,
              visit: { 'visit-device': 'computer' },
              item: null,
              instant,
            });
          if (document.kind === 'page') add(null, false);
          for (const tier of [undefined, 'dusk', 'twilight', 'midnight'])
            for (const vip of [undefined, true, false])
              for (const tags of [
                undefined,
                ['moon'],
                ['sun'],
                ['family'],
                ['moon', 'family'],
                ['sun', 'family'],
              ])
                for (const signedIn of document.kind === 'page' ? [true, false] : [false])
                  add({ tier, vip, tags }, signedIn);
          expect(new Set(faces.map((face) => faceKey(face.choices)))).toEqual(new Set(everybody.map(faceOf)));
        },
      ),
      { numRuns: 100 },
    );
  });
});

describe('faces of the demo', () => {
  const people = demoPeople(2400, 20_261_124, localDay(instant, demoSettings.zone));

  it.each(demoDocuments)('$name: every contact gets one of them', (document) => {
    const decider = new Decider({
      settings: demoSettings,
      attributes: demoAttributes,
      audiences: demoAudiences,
      documents: [document],
    });
    const world = new World({
      catalogue: decider.catalogue,
      membership: decider.membership,
      audiences: demoAudiences,
      used: audiencesOf(document.content),
      channel: channelOf(document.kind),
      instant,
    });
    const { faces, complete } = facesOf(document.content, world);
    const keys = new Set(faces.map((face) => faceKey(face.choices)));
    expect(complete).toBe(true);
    for (const { values, hasAccount } of people) {
      const viewer = {
        contact: values,
        signedIn: document.kind === 'page' && hasAccount,
        visit: { 'visit-device': 'computer' },
        item: null,
        instant,
      };
      expect(keys).toContain(
        faceKey(visibilityOf(document.content)(decider.decide(document.id, decider.facts(viewer)))),
      );
    }
  });

  it('are seven for the home page, as counted by hand', () => {
    const [home] = demoDocuments;
    if (!home) throw new Error('no home');
    const decider = new Decider({
      settings: demoSettings,
      attributes: demoAttributes,
      audiences: demoAudiences,
      documents: [home],
    });
    const world = new World({
      catalogue: decider.catalogue,
      membership: decider.membership,
      audiences: demoAudiences,
      used: audiencesOf(home.content),
      channel: 'page',
      instant,
    });
    const keys = facesOf(home.content, world).faces.map((face) => faceKey(face.choices));
    // Midnight never near renewal; Twilight and Dusk with and without; no tier signed in or not.
    expect(keys.sort()).toEqual(['-1,-1,-1', '0,0,2', '1,0,0', '1,0,2', '2,0,0', '2,0,1', '3,-1,-1'].sort());
  });

  it('keep unrelated slots apart: thirty of them in ten themes are bounded, not multiplied out', () => {
    const many: Attribute[] = Array.from({ length: 10 }, (_, index) => ({
      ...contact,
      id: `t${index}`,
      label: `t${index}`,
      type: 'choice',
      ordered: false,
      choices: choices('a', 'b', 'c'),
    }));
    const audiences: Audience[] = many.flatMap(({ id }) =>
      ['a', 'b', 'c'].map((value) => ({
        id: `${id}${value}`,
        name: '',
        description: '',
        condition: test(id, 'is-one-of', value),
      })),
    );
    const slots = many.flatMap(({ id }) =>
      ['x', 'y', 'z'].map((name) => slotOf(`${id}${name}`, [`${id}a`, `${id}b`, `${id}c`])),
    );
    const document = documentOf('page', slots);
    const decider = new Decider({ settings, attributes: many, audiences, documents: [document] });
    const world = new World({
      catalogue: decider.catalogue,
      membership: decider.membership,
      audiences,
      used: audiencesOf(document.content),
      channel: 'page',
      instant,
    });
    const { faces, complete } = facesOf(document.content, world);
    expect(complete).toBe(false);
    expect(faces.length).toBe(1500);
  });
});

it('compiles references through other audiences', () => {
  const audiences: Audience[] = [
    { id: 'a', name: 'a', description: '', condition: test('vip', 'is-yes') },
    { id: 'b', name: 'b', description: '', condition: not(inAudience('a')) },
  ];
  const { world } = analyse(documentOf('page', [slotOf('s', ['a', 'b'])]), audiences);
  expect(world.audience('b')).toBe(world.diagrams.not(world.audience('a')));
});
