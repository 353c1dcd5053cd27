import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Viewer } from '../attributes/viewer.ts';
import type { Item } from '../collections/collection.ts';
import { all, inAudience, not, test } from '../conditions/condition.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import { Decider } from './decide.ts';
import { audiencesAbout, isPublished, Library } from './library.ts';
import { LibraryView } from './library-view.ts';
import type { Snapshot } from './release.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const viewer = (contact: Record<string, unknown> | null, signedIn = contact !== null) => ({
  contact,
  signedIn,
  visit: {},
  item: null,
  instant,
});
const list = (change: Partial<ListBlock> = {}): ListBlock => ({
  kind: 'list',
  id: 'l',
  collection: 'guides',
  layout: 'cards',
  where: null,
  sort: 'order',
  down: false,
  most: 100,
  empty: '',
  ...change,
});
const libraryOf = (change: (snapshot: Snapshot) => Partial<Snapshot> = () => ({})) =>
  new Library(new Decider({ ...demoSnapshot, ...change(demoSnapshot) }));
const titles = (library: Library, block: ListBlock, who = viewer(null)) =>
  new LibraryView(library, who)
    .entries(block)
    .map(({ item, locked }) => `${item.title}${locked ? ' (locked)' : ''}`);

describe('what an item is to a viewer', () => {
  const library = libraryOf();
  const levelOf = (slug: string, who: Viewer, of = library) => {
    const found = of.find(`guides/${slug}`);
    if (!found) throw new Error(slug);
    return new LibraryView(of, who).accessLevel(found.collection, found.item);
  };

  it('is decided by the item’s own fields against the viewer’s, for each item anew', () => {
    const table = ['star-chart', 'frost-lens', 'terrace-moon', 'dome-by-yourself'].map((slug) =>
      [null, { tier: 'dusk' }, { tier: 'twilight' }, { tier: 'midnight' }, {}].map((contact) =>
        levelOf(slug, viewer(contact)),
      ),
    );
    expect(table).toEqual([
      ['open', 'open', 'open', 'open', 'open'],
      ['hidden', 'open', 'open', 'open', 'hidden'],
      ['hidden', 'hidden', 'open', 'open', 'hidden'],
      ['hidden', 'hidden', 'hidden', 'open', 'hidden'],
    ]);
    // Known by a link, not signed in.
    expect(levelOf('dome-by-yourself', viewer({ tier: 'midnight' }, false))).toBe('hidden');
  });

  it('is locked where its collection lists what is closed, and closed where either asks for more', () => {
    const locked = libraryOf(({ collections = [] }) => ({
      collections: collections.map((one) => ({ ...one, locked: true })),
    }));
    expect(levelOf('dome-by-yourself', viewer(null), locked)).toBe('locked');
    const members = libraryOf(({ collections = [] }) => ({
      collections: collections.map((one) => ({ ...one, access: 'any-member' })),
    }));
    expect(levelOf('star-chart', viewer(null), members)).toBe('hidden');
    expect(levelOf('star-chart', viewer({ tier: 'dusk' }), members)).toBe('open');
    expect(levelOf('dome-by-yourself', viewer({ tier: 'dusk' }), members)).toBe('hidden');
  });

  it('is closed by an audience that is gone or can’t be evaluated', () => {
    const with_ = (access: string) =>
      libraryOf(({ items = [] }) => ({ items: items.map((item) => ({ ...item, access })) }));
    expect(levelOf('star-chart', viewer({ tier: 'midnight' }), with_('gone'))).toBe('hidden');
  });

  it('does not trust values that the request brings for the item', () => {
    const forged: Viewer = { ...viewer({ tier: 'dusk' }), item: { 'guides-tiers': ['dusk'] } };
    expect(levelOf('dome-by-yourself', forged)).toBe('hidden');
  });
});

describe('a list', () => {
  it('filters by fields of the item and by the viewer, in the order that is asked for', () => {
    const library = libraryOf();
    const noor = viewer({ tier: 'midnight' });
    expect(titles(library, list({ where: test('guides-level', 'is-one-of', 'expert') }), noor)).toEqual([
      'The dome by yourself',
    ]);
    expect(
      titles(library, list({ where: all(not(test('guides-level', 'at-least', 'practised'))) }), noor),
    ).toEqual(['Finding the Double Cluster', 'Reading a star chart']);
    expect(
      titles(library, list({ where: inAudience('midnight-members') }), viewer({ tier: 'dusk' })),
    ).toEqual([]);
    expect(titles(library, list({ sort: 'guides-minutes', down: true, most: 2 }), noor)).toEqual([
      'The dome by yourself',
      'Frost, dew and your lens',
    ]);
    expect(titles(library, list({ sort: 'title' }))).toEqual([
      'Finding the Double Cluster',
      'Reading a star chart',
    ]);
    // By the order of the choices, not of their names: beginner, practised, expert.
    expect(titles(library, list({ sort: 'guides-level', down: true }), noor)[0]).toBe('The dome by yourself');
    expect(titles(library, list({ collection: 'gone' }))).toEqual([]);
  });

  it('leaves out what is listed for others, which can be opened all the same', () => {
    const listedFor = (listed: Item['listed']) =>
      libraryOf(({ items = [] }) => ({
        items: items.map((item) => (item.slug === 'star-chart' ? { ...item, listed } : item)),
      }));
    const who = [viewer(null), viewer({ tier: 'dusk' }), viewer({ tier: 'midnight' })];
    const shown = (listed: Item['listed']) =>
      who.map((one) => titles(listedFor(listed), list(), one).includes('Reading a star chart'));
    expect(shown({ to: 'only', audience: 'dusk-members' })).toEqual([false, true, false]);
    expect(shown({ to: 'all-but', audience: 'dusk-members' })).toEqual([true, false, true]);
    expect(shown(null)).toEqual([true, true, true]);
    // An audience that is gone contains nobody.
    expect(shown({ to: 'only', audience: 'gone' })).toEqual([false, false, false]);
    expect(shown({ to: 'all-but', audience: 'gone' })).toEqual([true, true, true]);
    const library = listedFor({ to: 'only', audience: 'gone' });
    const found = library.find('guides/star-chart');
    expect(found && new LibraryView(library, viewer(null)).accessLevel(found.collection, found.item)).toBe(
      'open',
    );
  });

  it('keeps the order of its collection, however the items are stored, and puts what has no value last', () => {
    const minutes: { [id: string]: number } = { 'guide-star-chart': 5, 'guide-double-cluster': 0 };
    const library = libraryOf(({ items = [] }) => ({
      items: items.toReversed().map((item) => {
        const { 'guides-minutes': _, ...values } = item.values;
        const own = minutes[item.id];
        return { ...item, values: own === undefined ? values : { ...values, 'guides-minutes': own } };
      }),
    }));
    const noor = viewer({ tier: 'midnight' });
    const byPlace = (demoSnapshot.items ?? [])
      .filter(({ collection }) => collection === 'guides')
      .sort((one, two) => one.position - two.position)
      .map(({ title }) => title);
    expect(titles(library, list(), noor)).toEqual(byPlace);
    expect(titles(library, list({ down: true }), noor)).toEqual(byPlace.toReversed());
    const [first, second] = ['Finding the Double Cluster', 'Reading a star chart'];
    const without = byPlace.filter((title) => title !== first && title !== second);
    expect(titles(library, list({ sort: 'guides-minutes' }), noor)).toEqual([first, second, ...without]);
    expect(titles(library, list({ sort: 'guides-minutes', down: true }), noor)).toEqual([
      second,
      first,
      ...without,
    ]);
  });

  it('says of each entry what is for the first audience that fits the viewer and that item', () => {
    const library = libraryOf(({ audiences }) => ({
      audiences: [
        ...audiences,
        { id: 'quick-read', name: 'quick', description: '', condition: test('guides-minutes', 'at-most', 8) },
      ],
    }));
    const block = list({
      sort: 'title',
      remarks: {
        variants: [
          { audience: 'gone', words: 'never', field: null },
          { audience: 'quick-read', words: 'quick', field: null },
          { audience: 'midnight-members', words: 'yours', field: null },
        ],
        otherwise: { words: '', field: null },
      },
    });
    const remarks = (who: Viewer) =>
      Object.fromEntries(
        new LibraryView(library, who)
          .shown(block)
          .map(({ id, remark }) => [id.replace('guide-', ''), remark]),
      );
    expect(remarks(viewer(null))).toEqual({ 'double-cluster': -1, 'star-chart': 1 });
    expect(remarks(viewer({ tier: 'midnight' }))).toMatchObject({ 'double-cluster': 2, 'star-chart': 1 });
    expect(new LibraryView(library, viewer(null)).shown(list()).map(({ remark }) => remark)).toEqual([
      -1, -1,
    ]);
  });

  it('shows exactly the items that are open or locked to the viewer, whatever the order (property)', () => {
    const tiers = [undefined, 'dusk', 'twilight', 'midnight'];
    fc.assert(
      fc.property(
        fc.constantFrom(...tiers),
        fc.boolean(),
        fc.boolean(),
        fc.constantFrom('order', 'title', 'guides-minutes', 'guides-level', 'guides-tiers'),
        fc.boolean(),
        (tier, signedIn, locked, sort, down) => {
          const library = libraryOf(({ collections = [] }) => ({
            collections: collections.map((one) => ({ ...one, locked })),
          }));
          const who = viewer(tier === undefined ? {} : { tier }, signedIn);
          const [guides] = library.collections;
          if (!guides) throw new Error('no collection');
          const wanted = library
            .itemsOf('guides')
            .flatMap((item) => {
              const is = new LibraryView(library, who).accessLevel(guides, item);
              return is === 'hidden' ? [] : [`${item.title}${is === 'locked' ? ' (locked)' : ''}`];
            })
            .sort();
          expect(titles(library, list({ sort, down }), who).sort()).toEqual(wanted);
        },
      ),
    );
  });
});

describe('when an item is published', () => {
  const window = (from: string | null, until: string | null): Pick<Item, 'from' | 'until'> => ({
    from,
    until,
  });
  it.each([
    [null, null, true],
    ['2026-11-24T12:00:00Z', null, true],
    ['2026-11-24T12:00:00.001Z', null, false],
    [null, '2026-11-24T12:00:00Z', false],
    [null, '2026-11-24T12:00:00.001Z', true],
    ['2026-11-24T13:00:00+01:00', '2026-11-24T13:00:01+01:00', true],
  ])('from %s until %s: %s', (from, until, published) => {
    expect(isPublished(window(from, until), instant)).toBe(published);
  });
});

it('finds audiences that ask for fields of items through others', () => {
  const about = audiencesAbout(
    [
      { id: 'a', name: 'a', description: '', condition: test('guides-level', 'has-value') },
      { id: 'b', name: 'b', description: '', condition: not(inAudience('c')) },
      { id: 'c', name: 'c', description: '', condition: all(inAudience('a')) },
      { id: 'd', name: 'd', description: '', condition: test('tier', 'has-value') },
    ],
    (id) => id.startsWith('guides-'),
  );
  expect([...about].sort()).toEqual(['a', 'b', 'c']);
});
