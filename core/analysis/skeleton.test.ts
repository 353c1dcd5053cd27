import { describe, expect, it } from 'vitest';
import { attributes as crowdAttributes, randomAudiences, randomPage } from '../../bench/crowd.ts';
import { demoSnapshot } from '../../demo/scenario.ts';
import type { Content, Document, Node } from '../documents/document.ts';
import { withShared } from '../documents/shared.ts';
import type { Inline } from '../documents/text.ts';
import { analyseDocument, offering, repaired } from './document-analysis.ts';
import { skeletonOf } from './skeleton.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const slow = { time: 60_000 };

/** Two variants of which the second one's people all get the first. */
const shadowed: Node = {
  kind: 'slot',
  id: 'third',
  name: 'third',
  variants: [
    { id: 'third-a', audience: 'any-member', content: [{ kind: 'divider', id: 'd2' }] },
    { id: 'third-b', audience: 'midnight-members', content: [{ kind: 'divider', id: 'd3' }] },
  ],
  otherwise: [],
};

/** A page where something is found of each kind that words could have to do with. */
const written: Document = {
  id: 'written',
  kind: 'page',
  name: 'Written',
  slug: 'written',
  content: {
    subject: [],
    preview: [],
    body: [
      { kind: 'heading', id: 'h', level: 1, content: [text('Welcome, '), field(''), text('!')] },
      slot('first', 'midnight-members', [
        { kind: 'heading', id: 'h2', level: 2, content: [text('For regulars')] },
      ]),
      slot('second', 'twilight-members', [{ kind: 'divider', id: 'd' }]),
      {
        kind: 'line',
        id: 'l',
        content: [
          {
            type: 'alternatives',
            attrs: {
              id: 'words',
              name: 'words',
              variants: [{ id: 'w1', audience: 'midnight-members', words: 'dear regular' }],
              otherwise: '',
            },
          },
          field('  '),
        ],
      },
      { kind: 'picture', id: 'p', picture: 'moon', alt: 'The moon' },
      {
        kind: 'section',
        id: 's',
        name: 'Offers',
        tone: 'plain',
        layout: 'row',
        children: [shadowed, { kind: 'links', id: 'menu', name: 'Menu', look: 'menu', children: [] }],
      },
    ],
  },
};

function text(words: string): Inline {
  return { type: 'text', text: words };
}
function field(fallback: string): Inline {
  return { type: 'mergeField', attrs: { attribute: 'first-name', fallback } };
}
function slot(id: string, audience: string, content: Node[]): Node {
  return { kind: 'slot', id, name: id, variants: [{ id: `${id}-a`, audience, content }], otherwise: [] };
}

function first(content: Content, change: (node: Node) => Node): Content {
  const [node, ...rest] = content.body;
  return { ...content, body: node ? [change(node), ...rest] : [] };
}

describe('a document without its words', () => {
  const pieces = new Map(
    demoSnapshot.documents.filter(({ kind }) => kind === 'shared').map(({ id, content }) => [id, content]),
  );
  const documents = demoSnapshot.documents.map((one) => ({
    ...one,
    content: withShared(one.content, pieces),
  }));

  it.each([...documents, written].map((document) => [document.name, document] as const))(
    'is found to be what %s is found to be',
    (_name, document) => {
      const whole = offering(analyseDocument(demoSnapshot, document, instant, slow));
      const bare = offering(analyseDocument(demoSnapshot, skeletonOf(document).document, instant, slow));
      expect(bare).toEqual(whole);
    },
  );

  it('has findings of many kinds to lose', () => {
    const kinds = [...documents, written].flatMap((document) =>
      analyseDocument(demoSnapshot, document, instant, slow).findings.map(({ kind }) => kind),
    );
    expect([...new Set(kinds)]).toEqual(expect.arrayContaining(['no-fallback', 'gap-between', 'shadowed']));
  });

  it('is found to be what random pages are found to be', () => {
    const drafts = { ...demoSnapshot, attributes: crowdAttributes, audiences: randomAudiences(12) };
    for (let seed = 0; seed < 12; seed++) {
      const document = { ...written, content: randomPage(5, 12, seed) };
      const whole = offering(analyseDocument(drafts, document, instant, slow));
      expect(offering(analyseDocument(drafts, skeletonOf(document).document, instant, slow))).toEqual(whole);
    }
  });

  it('is the same whatever words there are, and another one where anything else is', () => {
    const { content } = written;
    const { key } = skeletonOf(written);
    const keyOf = (change: (node: Node) => Node) =>
      skeletonOf({ ...written, content: first(content, change) }).key;
    const heading = (...inlines: Inline[]) =>
      keyOf((node) => (node.kind === 'heading' ? { ...node, content: inlines } : node));
    expect(heading(text('Good evening, '), field(''), text('.'))).toBe(key);
    expect(heading(field(''))).toBe(key);
    expect(skeletonOf({ ...written, name: 'Another', slug: 'another' }).key).toBe(key);
    for (const other of [
      heading(field('friend')),
      heading(text('Welcome!')),
      heading({ type: 'mergeField', attrs: { attribute: 'last-name', fallback: '' } }),
      keyOf((node) => slot(node.id, 'midnight-members', [])),
      skeletonOf({ ...written, content: { ...content, audiences: ['midnight-members'] } }).key,
      skeletonOf({ ...written, access: { audience: 'midnight-members', otherwise: 'sign-in' } }).key,
      skeletonOf({ ...written, content: { ...content, body: content.body.toReversed() } }).key,
      skeletonOf({ ...written, content: { ...content, body: [], subject: content.body } }).key,
    ])
      expect(other).not.toBe(key);
    const [, ...others] = [key, heading(field('friend')), heading(field('you'))];
    // Which words a merge field falls back on counts for nothing, only that there are some.
    expect(new Set(others).size).toBe(1);
  });

  it('looks again only at what changed', () => {
    const { document } = skeletonOf(written);
    const next = skeletonOf({
      ...written,
      content: first(written.content, (node) => (node.kind === 'heading' ? { ...node, content: [] } : node)),
    });
    expect(
      next.document.content.body.slice(1).every((node, at) => node === document.content.body[at + 1]),
    ).toBe(true);
  });
});

describe('a repair that is chosen', () => {
  it('is carried out on the document as it is now, or not at all where it no longer fits', () => {
    const { findings } = analyseDocument(demoSnapshot, skeletonOf(written).document, instant, slow);
    const found = findings.find(({ kind }) => kind === 'no-fallback');
    const label = found?.repairs[0]?.label ?? '';
    if (!found) throw new Error('no finding to repair');
    const rewritten = {
      ...written,
      content: first(written.content, (node) =>
        node.kind === 'heading' ? { ...node, content: [text('Good evening, '), field('')] } : node,
      ),
    };
    const after = repaired(demoSnapshot, rewritten, instant, { ...found, label }, slow);
    expect(after?.body[0]).toEqual({
      kind: 'heading',
      id: 'h',
      level: 1,
      content: [text('Good evening, '), field('friend')],
    });
    if (!after) throw new Error('not repaired');
    expect(
      repaired(demoSnapshot, { ...written, content: after }, instant, { ...found, label }, slow),
    ).toBeNull();
  });
});
