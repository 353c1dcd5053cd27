import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoDocuments, demoSettings } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { Decider } from '../deciding/decide.ts';
import { slotsOf } from '../documents/document.ts';
import { audiencesOf } from '../documents/uses.ts';
import { slotDiagrams } from './faces.ts';
import { alternativesOf, nearest } from './nearest.ts';
import { type Trait, World } from './world.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const [home] = demoDocuments;
if (!home) throw new Error('the demo has no page');
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
const slots = slotDiagrams(home.content, world);

function wanted(slot: number, choice: number, viewer: Viewer): Trait[] | undefined {
  return nearest(world.diagrams.where(slots[slot] ?? 0, choice), decider.facts(viewer), world);
}

function changed(viewer: Viewer, changes: readonly Trait[]): Viewer {
  const after = { ...viewer, contact: viewer.contact && { ...viewer.contact } };
  for (const change of changes) {
    if ('moment' in change) after.instant = change.moment;
    else if ('sameAs' in change) throw new Error('the demo has no items');
    else if ('state' in change) {
      after.signedIn = change.state === 'signed-in';
      after.contact = change.state === 'anonymous' ? null : (after.contact ?? {});
    } else if (change.attribute.source === 'visit')
      after.visit = { ...after.visit, [change.attribute.id]: change.value };
    else if (after.contact) after.contact[change.attribute.id] = change.value;
  }
  return after;
}

const viewerOf = (contact: Record<string, unknown> | null, signedIn = contact !== null): Viewer => ({
  contact,
  signedIn,
  visit: { 'visit-device': 'computer' },
  item: null,
  instant,
});
const person = fc.record(
  {
    tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
    renewal: fc.constantFrom('2026-11-30', '2027-06-01'),
    visits: fc.integer({ min: 0, max: 5 }),
    roles: fc.constantFrom(['member'], ['staff']),
    lists: fc.constantFrom(['newsletter'], ['telescope-night-waitlist']),
  },
  { requiredKeys: [] },
);
const viewers = fc.oneof(
  fc.constant(viewerOf(null)),
  fc.tuple(person, fc.boolean()).map(([values, signedIn]) => viewerOf(values, signedIn)),
);

describe('what would change it', () => {
  it('is said in the fewest changes: by hand', () => {
    const dusk = viewerOf({ tier: 'dusk', visits: 1 });
    expect(wanted(0, 2, dusk)).toEqual([]);
    expect(wanted(0, 0, dusk)).toMatchObject([{ attribute: { id: 'tier' }, value: 'midnight' }]);
    const renewal = wanted(2, 0, dusk);
    expect(
      renewal?.map((change) => ('attribute' in change ? change.attribute.id : 'state')).sort(),
      // Visits would do as well as the waitlist; either way it takes two.
    ).toEqual(['lists', 'renewal']);
    expect(wanted(0, 3, viewerOf(null))).toEqual([{ state: 'signed-in' }]);
  });

  it('leads to what was wanted, for any viewer, slot and variant', () => {
    fc.assert(
      fc.property(
        viewers,
        fc.constantFrom(0, 1, 2),
        fc.integer({ min: -1, max: 3 }),
        (viewer, slot, choice) => {
          const changes = wanted(slot, choice, viewer);
          if (!changes) {
            expect([...world.diagrams.outcomes(slots[slot] ?? 0)]).not.toContain(choice);
            return;
          }
          const after = changed(viewer, changes);
          expect(decider.decide('home', decider.facts(after))[slot]).toBe(choice);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('is never more than needed: where it takes two changes, no single one does', () => {
    const single: ((viewer: Viewer) => Viewer)[] = [
      (viewer) => ({ ...viewer, signedIn: viewer.contact !== null && !viewer.signedIn }),
      ...Object.entries({
        tier: [undefined, 'dusk', 'twilight', 'midnight'],
        renewal: [undefined, '2026-11-30', '2027-06-01'],
        visits: [undefined, 0, 3, 9],
        roles: [undefined, ['staff'], ['member']],
        lists: [undefined, ['telescope-night-waitlist'], ['newsletter']],
      }).flatMap(([id, values]) =>
        values.map(
          (value) => (viewer: Viewer) =>
            viewer.contact === null ? viewer : { ...viewer, contact: { ...viewer.contact, [id]: value } },
        ),
      ),
    ];
    fc.assert(
      fc.property(
        viewers,
        fc.constantFrom(0, 1, 2),
        fc.integer({ min: -1, max: 3 }),
        (viewer, slot, choice) => {
          const changes = wanted(slot, choice, viewer);
          if (!changes || changes.length < 2) return;
          for (const change of single)
            expect(decider.decide('home', decider.facts(change(viewer)))[slot]).not.toBe(choice);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('the other choices of a slot', () => {
  it('each with the fewest changes that lead to it, the nearest first, and none that is shown already', () => {
    fc.assert(
      fc.property(person, fc.constantFrom(...slotsOf(home.content)), (contact, slot) => {
        const viewer = viewerOf(contact);
        const at = slotsOf(home.content).indexOf(slot);
        const choiceFor = (of: Viewer) => decider.decide(home.id, decider.facts(of))[at] ?? -1;
        const current = choiceFor(viewer);
        const others = alternativesOf(slot, current, decider.facts(viewer), world);
        expect(others.map(({ choice }) => choice)).not.toContain(current);
        expect(others).toHaveLength(slot.variants.length);
        for (const { choice, changes } of others) {
          expect(changes.length).toBeGreaterThan(0);
          expect(choiceFor(changed(viewer, changes))).toBe(choice);
        }
        const costs = others.map(({ changes }) => changes.length);
        expect(costs).toEqual([...costs].sort((left, right) => left - right));
      }),
      { numRuns: 60 },
    );
  });
});
