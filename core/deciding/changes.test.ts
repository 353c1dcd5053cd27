import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Collection, Item } from '../collections/collection.ts';
import type { Document, Node } from '../documents/document.ts';
import { updateSlot } from '../documents/edit.ts';
import { words } from '../documents/text.ts';
import { changesBetween } from './changes.ts';
import type { Snapshot } from './release.ts';

const withItem = (change: Partial<Item>): Snapshot => ({
  ...demoSnapshot,
  items: (demoSnapshot.items ?? []).map((item) =>
    item.id === 'guide-star-chart' ? { ...item, ...change } : item,
  ),
});
const withCollection = (change: Partial<Collection>): Snapshot => ({
  ...demoSnapshot,
  collections: (demoSnapshot.collections ?? []).map((one) =>
    one.id === 'guides' ? { ...one, ...change } : one,
  ),
});
const withHome = (change: (home: Document) => Partial<Document>): Snapshot => ({
  ...demoSnapshot,
  documents: demoSnapshot.documents.map((document) =>
    document.id === 'home' ? { ...document, ...change(document) } : document,
  ),
});
const detailsOf = (after: Snapshot) =>
  changesBetween(demoSnapshot, after).map(({ what, change, details }) => [what, change, ...details]);

describe('what differs from what is live', () => {
  it('is nothing where nothing does', () => {
    expect(changesBetween(demoSnapshot, structuredClone(demoSnapshot))).toEqual([]);
  });

  it.each<[string, Partial<Item>]>([
    ['title was “Reading a star chart”', { title: 'How to read one' }],
    ['address was “star-chart”', { slug: 'charts' }],
    ['who may open it', { access: 'any-member' }],
    ['when it is published', { from: '2027-01-01T00:00:00Z' }],
    ['what it says', { teaser: 'Another' }],
    ['what it says', { values: {} }],
  ])('of an item: %s', (detail, change) => {
    expect(detailsOf(withItem(change))).toEqual([['item', 'changed', detail]]);
  });

  it.each<[string, Partial<Collection>]>([
    ['renamed from “Sky guides”', { name: 'Guides' }],
    ['address was “/guides/”', { slug: 'sky' }],
    ['who may open its items', { access: 'any-member' }],
    ['whether closed items are listed', { locked: true }],
    ['its fields', { fields: [] }],
  ])('of a collection: %s', (detail, change) => {
    expect(detailsOf(withCollection(change))).toEqual([['collection', 'changed', detail]]);
  });

  it('of a page: its name, its address, who may open it, what everyone sees, and each slot by its letters', () => {
    expect(
      detailsOf(
        withHome(() => ({
          name: 'Start',
          slug: 'start',
          access: { audience: 'any-member', otherwise: 'sign-in' },
        })),
      ),
    ).toEqual([['page', 'changed', 'renamed from “Home”', 'address was “/”', 'who may open it']]);
    const more: Node = { kind: 'heading', id: 'more', level: 2, content: words('More') };
    expect(
      detailsOf(withHome(({ content }) => ({ content: { ...content, body: [...content.body, more] } }))),
    ).toEqual([['page', 'changed', 'what everyone sees']]);
    const slotId = demoSnapshot.documents
      .find(({ id }) => id === 'home')
      ?.content.body.find(({ kind }) => kind === 'slot')?.id;
    const details = (change: Parameters<typeof updateSlot>[2]) =>
      detailsOf(
        withHome(({ content }) => ({ content: updateSlot(content, slotId ?? '', change) })),
      )[0]?.slice(2);
    expect(details((slot) => ({ ...slot, otherwise: [] }))).toEqual([
      'Welcome banner: everyone else sees something else',
    ]);
    expect(details((slot) => ({ ...slot, variants: slot.variants.slice(1) }))).toEqual([
      'Welcome banner: variant A was B',
      'Welcome banner: variant B was C',
      'Welcome banner: variant C was D',
      'Welcome banner: variant A is gone',
    ]);
    expect(
      details((slot) => ({
        ...slot,
        variants: slot.variants.map((variant, at) =>
          at === 1 ? { ...variant, audience: 'educators' } : variant,
        ),
      })),
    ).toEqual(['Welcome banner: variant B has another audience']);
    expect(
      details((slot) => ({
        ...slot,
        variants: [...slot.variants, { id: 'n', audience: 'educators', content: [] }],
      })),
    ).toEqual(['Welcome banner: variant E is new']);
  });

  it('of the settings that they changed, and of what is new or gone that it is', () => {
    const settings = { ...demoSnapshot.settings, name: 'Another' };
    expect(detailsOf({ ...demoSnapshot, settings })).toEqual([['settings', 'changed', 'the name']]);
    const without = { ...demoSnapshot, items: [], collections: [] };
    expect(new Set(detailsOf(without).map(String))).toEqual(new Set(['item,removed', 'collection,removed']));
    expect(changesBetween(without, demoSnapshot).every(({ change }) => change === 'new')).toBe(true);
  });
});
