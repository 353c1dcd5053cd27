import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import type { Collection, Item } from './collection.ts';
import { readItems, writeItems } from './exchange.ts';

const field = (rest: object): Collection['fields'][number] => ({
  use: 'value',
  attribute: { source: 'item', description: '', type: 'text', ...rest } as Attribute,
});
const collectionOf = (label: string): Collection => ({
  id: 'talks',
  name: 'Talks',
  slug: 'talks',
  fields: [
    field({ id: 'words', label }),
    field({ id: 'seats', label: 'seats', type: 'number' }),
    field({
      id: 'halls',
      label: 'halls',
      type: 'set',
      choices: ['dome', 'roof'].map((id) => ({ id, label: id })),
      exclusiveGroups: [],
    }),
  ],
  access: null,
  locked: false,
});
const itemOf = (part: Partial<Item>): Item => ({
  id: 'one',
  collection: 'talks',
  slug: 'one',
  title: 'One',
  teaser: '',
  values: {},
  access: null,
  from: null,
  until: null,
  position: 1,
  ...part,
});
const kept = ({ slug, title, teaser, values, from, until }: Item) => ({
  slug,
  title,
  teaser,
  values,
  from,
  until,
});
const written = fc.constantFrom(
  '=1+1',
  "'=1",
  "''@x",
  '-1',
  '+a',
  '\t=x',
  ' around ',
  'a;b',
  'a,"b"',
  'क\n月',
  "'",
);

describe('items that are written and read again', () => {
  it.each(['csv', 'json'] as const)(
    'are the same, whatever they say and their fields are called, as %s',
    (kind) => {
      fc.assert(
        fc.property(
          fc.oneof(
            fc.constantFrom('-1', '=SUM', "'=x", 'Ort', '+ more', '@home'),
            fc.stringMatching(/^[a-z]{3,9}!$/),
          ),
          written,
          written.filter((text) => text.trim() !== ''),
          fc.option(fc.integer()),
          fc.subarray(['dome', 'roof']),
          (label, words, title, seats, halls) => {
            const collection = collectionOf(label);
            const item = itemOf({
              slug: 'a'.repeat(70),
              title: title.trim(),
              teaser: words.trim(),
              values: {
                words,
                ...(seats !== null && { seats }),
                ...(halls.length > 0 && { halls }),
              },
              from: '2026-11-27T18:00:00.000Z',
            });
            const read = readItems(kind, writeItems(kind, collection, [item]), collection);
            expect(read.problems).toEqual([]);
            expect(read.items.map(({ fields }) => fields)).toEqual([kept(item)]);
          },
        ),
      );
    },
  );

  it('are refused with a time that is none, and have none where it is blank', () => {
    const { items, problems } = readItems(
      'csv',
      'title,from,until\nA,soon,\nB,,2026-11-27T18:00Z\n',
      collectionOf('words'),
    );
    expect(problems).toEqual([{ line: 2, message: '“soon” (from) is not a date and time' }]);
    expect(items.map(({ fields }) => [fields.from, fields.until])).toEqual([
      [null, '2026-11-27T18:00:00.000Z'],
    ]);
  });

  it('need an address where their title has no letters that one is made of', () => {
    const { items, problems } = readItems('csv', 'title\n月\n', collectionOf('words'));
    expect(items).toEqual([]);
    expect(problems).toEqual([{ line: 2, message: 'has a title of which no address can be made; give one' }]);
  });
});
