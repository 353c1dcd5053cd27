import type { Item } from '../core/collections/collection.ts';
import type { Document, Node } from '../core/documents/document.ts';
import { CompiledSnapshot } from '../core/rendering/compiled.ts';
import { Random } from '../demo/random.ts';
import { demoSnapshot } from '../demo/scenario.ts';
import { medianTime, type Result, result } from './result.ts';
import { sized } from './size.ts';

const items = sized(10_000, 300);
const wordsAnItem = 60;
const bound = 20;
const runs = 25;
const mostFound = 50;
const syllables = ['ka', 'lo', 'mi', 'ner', 'po', 'qua', 'ri', 'sel', 'ta', 'vo', 'wen', 'zu'];

/**
 * Looking for words on a site with a collection of 10,000 items, one in ten of them closed to most and some words on the
 * page of an item shown to members only: the slowest of a word that every item has, a word that few have, several words,
 * and one that none has, for somebody who is signed out and for a member.
 */
export function searchBench(): Result[] {
  const random = new Random(7);
  const word = () => Array.from({ length: 3 }, () => syllables[random.between(0, 11)]).join('');
  const stored = Array.from({ length: items }, (_, index): Item => {
    const words = Array.from({ length: wordsAnItem }, word);
    return {
      id: `i${index}`,
      collection: 'courses',
      slug: `course-${index}`,
      title: `Course ${index} ${words[0]}`,
      teaser: words.slice(1, 12).join(' '),
      values: {
        'course-about': words.slice(12, 50).join(' '),
        'course-inner': words.slice(50).join(' '),
      },
      access: index % 10 === 0 ? 'midnight-members' : null,
      from: null,
      until: null,
      position: index,
    };
  });
  const site = new CompiledSnapshot(snapshotOf(stored), 'http://127.0.0.1');
  const rare = stored[Math.round(items * 0.87) + 1];
  const searches = [
    'course',
    `${rare?.teaser.split(' ')[3]}`,
    `COURSE ${rare?.teaser.split(' ').slice(2, 4).join(' ')}`,
    'nothingiscalledthat',
  ];
  let slowest = 0;
  for (const tier of [null, 'midnight'])
    for (const words of searches) {
      const viewer = {
        contact: tier === null ? null : { tier },
        signedIn: tier !== null,
        visit: {},
        item: null,
        instant: Date.parse('2026-11-24T12:00:00Z'),
      };
      const found = site.search.find(words, viewer, mostFound).length;
      if (found > 0 === (words === searches[3])) throw new Error(`“${words}” is found ${found} times`);
      slowest = Math.max(
        slowest,
        medianTime(() => site.search.find(words, viewer, mostFound), runs),
      );
    }
  const subject = `words among ${items.toLocaleString('en')} items, the slowest of eight searches in ${slowest.toFixed(1)} ms`;
  return [result('search', subject, `the bound of ${bound} ms`, bound / slowest, 1)];
}

function snapshotOf(stored: Item[]) {
  const collection = {
    id: 'courses',
    name: 'Courses',
    slug: 'courses',
    fields: ['about', 'inner'].map((name) => ({
      use: 'long-text' as const,
      attribute: {
        id: `course-${name}`,
        source: 'item' as const,
        label: name,
        description: '',
        type: 'text' as const,
      },
    })),
    access: null,
    locked: false,
  };
  const field = (name: string): Node => ({ kind: 'field', id: name, attribute: `course-${name}` });
  const page: Document = {
    id: 'course',
    kind: 'page',
    name: 'A course',
    slug: 'course',
    collection: 'courses',
    content: {
      subject: [],
      preview: [],
      body: [
        field('about'),
        {
          kind: 'slot',
          id: 'members',
          name: 'Members',
          variants: [{ id: 'inside', audience: 'midnight-members', content: [field('inner')] }],
          otherwise: [],
        },
      ],
    },
  };
  return {
    ...demoSnapshot,
    attributes: [...demoSnapshot.attributes, ...collection.fields.map(({ attribute }) => attribute)],
    documents: [...demoSnapshot.documents, page],
    collections: [collection],
    items: stored,
  };
}
