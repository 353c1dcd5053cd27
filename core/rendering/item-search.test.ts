import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import type { Collection, Item } from '../collections/collection.ts';
import type { Document, Node } from '../documents/document.ts';
import type { Inline } from '../documents/text.ts';
import { CompiledSnapshot } from './compiled.ts';

const viewer = (tier: string | null): Viewer => ({
  contact: tier === null ? null : { tier },
  signedIn: tier !== null,
  visit: {},
  item: null,
  instant: Date.parse('2026-11-24T12:00:00Z'),
});
const [nobody, midnight] = [viewer(null), viewer('midnight')];
const print = (attribute: string): Inline => ({ type: 'mergeField', attrs: { attribute, fallback: '' } });
const heading = (id: string, ...content: Inline[]): Node => ({ kind: 'heading', id, level: 2, content });
const textField = (id: string) =>
  ({
    use: 'long-text',
    attribute: { id, source: 'item', label: id, description: '', type: 'text' },
  }) as const;
const collection: Collection = {
  id: 'talks',
  name: 'Talks',
  slug: 'talks',
  fields: ['open', 'secret', 'never', 'block'].map((id) => textField(`talk-${id}`)),
  access: null,
  locked: false,
};
const attributes = [...demoSnapshot.attributes, ...collection.fields.map(({ attribute }) => attribute)];
const body: Node[] = [
  heading('h', print('item-title'), print('talk-open')),
  { kind: 'field', id: 'f', attribute: 'talk-block' },
  {
    kind: 'slot',
    id: 's',
    name: 's',
    variants: [{ id: 'v', audience: 'midnight-members', content: [heading('m', print('talk-secret'))] }],
    otherwise: [],
  },
  heading('i', {
    type: 'alternatives',
    attrs: {
      id: 'a',
      name: '',
      variants: [{ id: 'w', audience: 'midnight-members', words: 'nebula' }],
      otherwise: 'dust',
    },
  }),
];
const page: Document = {
  id: 'talk',
  kind: 'page',
  name: 'A talk',
  slug: 'talk',
  collection: 'talks',
  content: { subject: [], preview: [], body },
};
const item = (slug: string, values: Item['values'], rest: Partial<Item> = {}): Item => ({
  id: slug,
  collection: 'talks',
  slug,
  title: `Talk ${slug}`,
  teaser: '',
  values,
  access: null,
  from: null,
  until: null,
  position: 1,
  ...rest,
});
const siteOf = (items: Item[]) =>
  new CompiledSnapshot(
    { ...demoSnapshot, attributes, documents: [page], collections: [collection], items },
    'http://127.0.0.1',
  );
const found = (site: CompiledSnapshot, words: string, who: Viewer) =>
  site.search.find(words, who, 50).map(({ address }) => address.replace('/site/talks/', ''));

describe('looking for items', () => {
  const site = siteOf([
    item('one', { 'talk-open': 'Kométa & the Σeleneς' }),
    item('two', { 'talk-secret': 'comet' }),
    item('three', {}, { teaser: 'Dark matter' }),
    item('four', { 'talk-never': 'comet' }),
    item('five', { 'talk-open': 'comet' }, { access: 'midnight-members' }),
    item('blocks', { 'talk-block': 'A quasar' }),
    item('six', {}, { teaser: 'A comet in the teaser' }),
    item('seven', { 'talk-open': 'comet' }, { until: '2026-11-24T12:00:00Z' }),
  ]);

  it('finds the words that its page shows to that viewer, and no others', () => {
    expect(found(site, 'comet', nobody)).toEqual(['six']);
    expect(found(site, 'quasar', nobody)).toEqual(['blocks']);
    expect(found(site, 'comet', midnight)).toEqual(['two', 'five', 'six']);
  });

  it('takes accents, case and the form of a letter for nothing, and needs every word', () => {
    expect(found(site, 'KOMETA', nobody)).toEqual(['one']);
    expect(found(site, '  talk   σελενεσ ', nobody)).toEqual([]);
    expect(found(site, 'talk σELENEσ', nobody)).toEqual(['one']);
    expect(found(site, 'kometa comet', midnight)).toEqual([]);
    expect(found(site, '  ', nobody)).toEqual([]);
  });

  it('ends when there are enough', () => {
    const many = siteOf(
      Array.from({ length: 200 }, (_, index) => item(`n${index}`, { 'talk-open': 'comet' })),
    );
    expect(many.search.find('comet', nobody, 7).map(({ title }) => title)).toEqual(
      Array.from({ length: 7 }, (_, index) => `Talk n${index}`),
    );
  });
});
