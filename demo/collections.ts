import type { Attribute, Choice } from '../core/attributes/attribute.ts';
import type { Collection, CollectionField, Item } from '../core/collections/collection.ts';

const choices = (...labels: string[]): Choice[] =>
  labels.map((label) => ({ id: label.toLowerCase().replace(/[^a-z0-9]+/g, '-'), label }));
type Definition<One = Attribute> = One extends Attribute ? Omit<One, 'source' | 'description'> : never;
const field = (attribute: Definition, use: CollectionField['use'] = 'value'): CollectionField => ({
  attribute: { ...attribute, source: 'item', description: '' },
  use,
});

/** The sky guides and the shop of Quillmere Observatory. */
export const demoCollections: Collection[] = [
  {
    id: 'guides',
    name: 'Sky guides',
    slug: 'guides',
    access: null,
    locked: false,
    fields: [
      field({ id: 'guides-picture', label: 'picture', type: 'text' }, 'picture'),
      field({
        id: 'guides-level',
        label: 'level',
        type: 'choice',
        ordered: true,
        choices: choices('beginner', 'practised', 'expert'),
      }),
      field({
        id: 'guides-topic',
        label: 'topic',
        type: 'choice',
        ordered: false,
        choices: choices('Moon', 'planets', 'deep sky', 'Sun', 'tools'),
      }),
      field({
        id: 'guides-tiers',
        label: 'tiers it is for',
        type: 'set',
        choices: choices('Dusk', 'Twilight', 'Midnight'),
        exclusiveGroups: [],
      }),
      field({ id: 'guides-minutes', label: 'minutes to read', type: 'number', whole: true }),
      field({ id: 'guides-text', label: 'text', type: 'text' }, 'long-text'),
    ],
  },
  {
    id: 'goods',
    name: 'Shop',
    slug: 'goods',
    access: null,
    locked: false,
    fields: [
      field({ id: 'goods-price', label: 'price in pounds', type: 'number' }),
      field({
        id: 'goods-ships-to',
        label: 'ships to',
        type: 'set',
        choices: choices('United Kingdom', 'Ireland', 'Germany', 'France', 'Spain'),
        exclusiveGroups: [],
      }),
    ],
  },
];

let position = 0;
const guide = (
  slug: string,
  title: string,
  teaser: string,
  drawing: string,
  [level, topic, minutes]: [string, string, number],
  tiers: string[],
  ...paragraphs: string[]
): Item => ({
  id: `guide-${slug}`,
  collection: 'guides',
  slug,
  title,
  teaser,
  access: tiers.length > 0 ? 'guide-readers' : null,
  from: null,
  until: null,
  position: ++position,
  values: {
    'guides-picture': `demo-${drawing}`,
    'guides-level': level,
    'guides-topic': topic,
    'guides-minutes': minutes,
    ...(tiers.length > 0 && { 'guides-tiers': tiers }),
    'guides-text': paragraphs.join('\n\n'),
  },
});
const good = (slug: string, title: string, teaser: string, price: number, ...shipsTo: string[]): Item => ({
  id: `good-${slug}`,
  collection: 'goods',
  slug,
  title,
  teaser,
  access: null,
  from: null,
  until: null,
  position: ++position,
  values: { 'goods-price': price, 'goods-ships-to': shipsTo },
});

export const demoItems: Item[] = [
  guide(
    'double-cluster',
    'Finding the Double Cluster',
    'Two clusters of stars that the bare eye sees as one.',
    'double-cluster',
    ['beginner', 'deep-sky', 12],
    [],
    'Start from the W of Cassiopeia and walk half a fist towards Perseus.',
    'Binoculars show more than most telescopes, since both clusters fit into one view.',
  ),
  guide(
    'star-chart',
    'Reading a star chart',
    'East and west change places, and for a good reason.',
    'star-chart',
    ['beginner', 'tools', 8],
    [],
    'Hold the chart over your head and it agrees with the sky.',
    'The size of a dot is the brightness of its star.',
  ),
  guide(
    'frost-lens',
    'Frost, dew and your lens',
    'What to wrap, what to warm, and what never to wipe.',
    'frost-lens',
    ['practised', 'tools', 15],
    ['dusk', 'twilight', 'midnight'],
    'Dew falls on what sees the open sky. A dew shield of cardboard does half the work.',
    'Never wipe a frosted lens: carry it in, capped, and let it come round by itself.',
  ),
  guide(
    'terrace-moon',
    'The Moon from the terrace',
    'Craters along the line of night, hour by hour.',
    'moon',
    ['practised', 'moon', 10],
    ['twilight', 'midnight'],
    'The line between day and night is where the Moon has depth.',
    'Come on the evenings around first quarter, and stay until it stands low.',
  ),
  guide(
    'dome-by-yourself',
    'The dome by yourself',
    'From the shutter to the log book, for those who hold a key.',
    'dome',
    ['expert', 'tools', 20],
    ['midnight'],
    'Open the shutter a third, wait ten minutes, then all the way.',
    'The log book is kept in pencil, since ink freezes.',
  ),
  good(
    'planisphere',
    'Planisphere of Quillmere',
    'Turn it to the hour and look up.',
    14,
    'united-kingdom',
    'ireland',
    'germany',
    'france',
  ),
  good(
    'red-lamp',
    'Red lamp',
    'Light that leaves your eyes used to the dark.',
    9.5,
    'united-kingdom',
    'ireland',
  ),
  good(
    'almanac',
    'Printed almanac',
    'Every month of the coming year on two pages.',
    12,
    'united-kingdom',
    'ireland',
    'germany',
    'france',
    'spain',
  ),
];

/** Drawings that stand in items, kept as files so that whoever may not open an item gets none of it. */
export const demoFiles = ['double-cluster', 'star-chart', 'frost-lens', 'moon', 'dome'];
