import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import type { Collection, Item } from '../collections/collection.ts';
import { test } from '../conditions/condition.ts';
import { Decider } from '../deciding/decide.ts';
import { Library } from '../deciding/library.ts';
import { LibraryView } from '../deciding/library-view.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import { differenceOf } from './difference.ts';
import { changedItems, pairItem } from './item-difference.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const id = 'guide-dome-by-yourself';

const withItem = (change: Partial<Item>, snapshot = demoSnapshot): Snapshot => ({
  ...snapshot,
  items: (snapshot.items ?? []).map((item) => (item.id === id ? { ...item, ...change } : item)),
});
const withCollection = (change: Partial<Collection>, snapshot = demoSnapshot): Snapshot => ({
  ...snapshot,
  collections: (snapshot.collections ?? []).map((one) => (one.id === 'guides' ? { ...one, ...change } : one)),
});
/** Who it changes for, as openings with the tiers of those who are made up for them. */
function changes(before: Snapshot | undefined, after: Snapshot) {
  const pairing = pairItem(before, after, id, instant);
  if (!pairing) return undefined;
  return differenceOf(pairing, after, instant)
    .transitions.map(({ before: left, after: right, witness }) => [
      pairing.opening([...(left ?? []), ...(right ?? [])]),
      witness.contact?.tier,
    ])
    .sort();
}

describe('an item of two releases', () => {
  it('is nothing new where nothing that bears on it changed', () => {
    expect(changes(demoSnapshot, demoSnapshot)).toBeUndefined();
    const settings = { ...demoSnapshot.settings, name: 'Another name' };
    expect(changes(demoSnapshot, { ...demoSnapshot, settings })).toBeUndefined();
    const audiences = demoSnapshot.audiences.map((audience) =>
      audience.id === 'educators' ? { ...audience, condition: test('tier', 'has-value') } : audience,
    );
    expect(changes(demoSnapshot, { ...demoSnapshot, audiences })).toBeUndefined();
  });

  it('is opened and closed by its own fields, its access, its collection and its audiences', () => {
    const twilightToo = withItem({
      values: {
        ...demoSnapshot.items?.find((item) => item.id === id)?.values,
        'guides-tiers': ['twilight', 'midnight'],
      },
    });
    // Who may open it both before and after reads of other tiers, which is no matter of opening.
    expect(changes(demoSnapshot, twilightToo)).toEqual([
      [undefined, 'midnight'],
      ['gained', 'twilight'],
    ]);
    expect(changes(demoSnapshot, withItem({ access: 'nobody-is-here' }))).toEqual([['lost', 'midnight']]);
    expect(
      changes(demoSnapshot, withItem({ access: null }))?.every(([opening]) => opening === 'gained'),
    ).toBe(true);
    const members = withCollection({ access: 'dusk-members' });
    expect(changes(demoSnapshot, members)).toEqual([['lost', 'midnight']]);
    const audiences = demoSnapshot.audiences.map((audience) =>
      audience.id === 'guide-readers' ? { ...audience, condition: test('signed-in', 'is-yes') } : audience,
    );
    const opened = changes(demoSnapshot, { ...demoSnapshot, audiences }) ?? [];
    expect(new Set(opened.map(([opening]) => opening))).toEqual(new Set(['gained']));
  });

  it('is new, gone, or outside its window', () => {
    const later = withItem({ from: '2027-01-01T00:00:00Z' });
    const gone = { ...demoSnapshot, items: [] };
    for (const [before, after] of [
      [later, demoSnapshot],
      [gone, demoSnapshot],
      [undefined, demoSnapshot],
      [demoSnapshot, later],
      [demoSnapshot, gone],
    ] as const)
      expect(changes(before, after)).toEqual([[undefined, 'midnight']]);
    expect(changes(later, gone)).toBeUndefined();
    expect(pairItem(demoSnapshot, demoSnapshot, 'never-was', instant)).toBeUndefined();
  });

  it('shows its teaser to the others where it is listed as locked', () => {
    const locked = withCollection({ locked: true });
    const retold = withItem({ teaser: 'Another teaser' }, locked);
    const told = changes(locked, retold) ?? [];
    expect(told.length).toBeGreaterThan(1);
    expect(changes(demoSnapshot, withItem({ teaser: 'Another teaser' }))).toEqual([[undefined, 'midnight']]);
  });

  it('comes and goes in lists for exactly those whom it is listed for, also where it is locked (property)', () => {
    const listed = fc.constantFrom(
      null,
      { to: 'only' as const, audience: 'dusk-members' },
      { to: 'all-but' as const, audience: 'dusk-members' },
      { to: 'only' as const, audience: 'guide-readers' },
      { to: 'all-but' as const, audience: 'gone' },
    );
    const tiers = [null, undefined, 'dusk', 'twilight', 'midnight'];
    const block: ListBlock = {
      kind: 'list',
      id: 'l',
      collection: 'guides',
      layout: 'cards',
      where: null,
      sort: 'order',
      down: false,
      most: 100,
      empty: '',
    };
    /** What a viewer gets at the item's address, and in a list. */
    const gets = (snapshot: Snapshot, viewer: Viewer) => {
      const view = new LibraryView(new Library(new Decider(snapshot)), viewer);
      const found = new Library(new Decider(snapshot)).find('guides/dome-by-yourself');
      const entries = view.entries(block).filter(({ item }) => item.id === id);
      return JSON.stringify([
        found && view.accessLevel(found.collection, found.item),
        entries.map(({ locked }) => locked),
      ]);
    };
    const side = fc.record({
      listed,
      locked: fc.boolean(),
      access: fc.constantFrom(null, 'guide-readers', 'twilight-members'),
    });
    const snapshotOf = ({
      listed: whom,
      locked,
      access,
    }: {
      listed: Item['listed'];
      locked: boolean;
      access: string | null;
    }) => withCollection({ locked }, withItem({ access, ...(whom && { listed: whom }) }));
    fc.assert(
      fc.property(side, side, (left, right) => {
        const [before, after] = [snapshotOf(left), snapshotOf(right)];
        const pairing = pairItem(before, after, id, instant);
        const transitions = pairing ? differenceOf(pairing, after, instant).transitions : [];
        const isSame = (viewer: Viewer) => gets(before, viewer) === gets(after, viewer);
        const differing = tiers.flatMap((tier) =>
          [true, false].filter((signedIn) => {
            const contact = tier === null ? null : tier === undefined ? {} : { tier };
            return !isSame({ contact, signedIn, visit: {}, item: null, instant });
          }),
        );
        expect(transitions.length > 0).toBe(differing.length > 0);
        for (const { witness } of transitions) expect(isSame(witness)).toBe(false);
      }),
      { numRuns: 150 },
    );
  });

  it('is among those that changed exactly where it is one', () => {
    const audiences = demoSnapshot.audiences.map((audience) =>
      audience.id === 'guide-readers' ? { ...audience, condition: test('tier', 'has-value') } : audience,
    );
    const renamed = demoSnapshot.audiences.map((audience) => ({ ...audience, name: `${audience.name}!` }));
    const gone = { ...demoSnapshot, items: demoSnapshot.items?.filter((item) => item.id !== id) ?? [] };
    for (const [before, after] of [
      [demoSnapshot, demoSnapshot],
      [demoSnapshot, { ...demoSnapshot, audiences: renamed }],
      [demoSnapshot, { ...demoSnapshot, audiences }],
      [demoSnapshot, withItem({ teaser: 'Another' })],
      [demoSnapshot, withCollection({ access: 'any-member' })],
      [demoSnapshot, gone],
      [gone, demoSnapshot],
      [undefined, demoSnapshot],
    ] as [Snapshot | undefined, Snapshot][]) {
      const all = [...new Set([...(before?.items ?? []), ...(after.items ?? [])].map((item) => item.id))];
      const wanted = all.filter((one) => pairItem(before, after, one, instant));
      const found = changedItems(before, after, instant, new Map());
      expect(found.map((pairing) => (pairing.after ?? pairing.before)?.id).sort()).toEqual(wanted.sort());
    }
  });

  it('says of any viewer what the library says (property)', () => {
    const tiers = fc.subarray(['dusk', 'twilight', 'midnight']);
    const side = fc.record({
      tiers,
      access: fc.constantFrom(null, 'guide-readers', 'any-member', 'gone'),
      collection: fc.constantFrom(null, 'midnight-members', 'guide-readers'),
      locked: fc.boolean(),
    });
    const snapshotOf = (of: {
      tiers: string[];
      access: string | null;
      collection: string | null;
      locked: boolean;
    }) =>
      withCollection(
        { access: of.collection, locked: of.locked },
        withItem({ access: of.access, values: { 'guides-tiers': of.tiers } }),
      );
    fc.assert(
      fc.property(
        side,
        side,
        fc.constantFrom(null, undefined, 'dusk', 'twilight', 'midnight'),
        fc.boolean(),
        (left, right, tier, signedIn) => {
          const [before, after] = [snapshotOf(left), snapshotOf(right)];
          const contact = tier === null ? null : tier === undefined ? {} : { tier };
          const viewer: Viewer = { contact, signedIn, visit: {}, item: null, instant };
          const isOpen = (snapshot: Snapshot) => {
            const library = new Library(new Decider(snapshot));
            const found = library.find('guides/dome-by-yourself');
            return (
              found && new LibraryView(library, viewer).accessLevel(found.collection, found.item) === 'open'
            );
          };
          const [could, can] = [isOpen(before), isOpen(after)];
          const pairing = pairItem(before, after, id, instant);
          const said = pairing && openingFor(pairing, after, viewer);
          expect(said).toBe(could === can ? undefined : can ? 'gained' : 'lost');
        },
      ),
      { numRuns: 60 },
    );
  });
});

function openingFor(pairing: NonNullable<ReturnType<typeof pairItem>>, after: Snapshot, viewer: Viewer) {
  const decider = new Decider({
    ...after,
    audiences: [...pairing.audiences],
    documents: [{ id: 'both', kind: 'page', name: 'both', slug: 'both', content: pairing.content }],
  });
  return pairing.opening([...decider.decide('both', decider.facts(viewer))]);
}
