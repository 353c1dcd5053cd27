import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../demo/scenario.ts';
import { analyseDocument } from '../analysis/document-analysis.ts';
import { Decider } from '../deciding/decide.ts';
import { newBlock } from './blocks/blocks.ts';
import {
  type Block,
  type Content,
  contentSchema,
  type Document,
  findNode,
  type Node,
  type Slot,
  slotOf,
  slotsOf,
  walkContent,
} from './document.ts';
import {
  addVariant,
  areNeighbours,
  beside,
  copyNode,
  copyVariant,
  dissolveSlot,
  heldBy,
  isOfLines,
  moveBeside,
  removeVariant,
  setVariantAudience,
  stepNode,
  takeAudiences,
  wrapBy,
  wrapGroup,
} from './edit.ts';
import { circleOfPieces, piecesIn, withShared } from './shared.ts';
import type { Alternatives } from './text.ts';

let made = 0;
const newId = () => `n${++made}`;
const heading = (id: string, text = id): Node => ({
  kind: 'heading',
  id,
  level: 2,
  content: [{ type: 'text', text }],
});
const section = (id: string, ...children: Node[]): Node => ({
  kind: 'section',
  id,
  name: id,
  tone: 'plain',
  layout: 'stack',
  children,
});
const content = (...body: Node[]): Content => ({ subject: [], preview: [], body });
const page = (of: Content): Document => ({ id: 'p', kind: 'page', name: 'P', slug: 'p', content: of });
const instant = Date.parse('2026-11-24T12:00:00Z');
const ids = (of: Content) => [...walkContent(of)].map(({ node }) => node.id);
const slotIn = (of: Content): Slot => {
  const [slot] = slotsOf(of);
  if (!slot) throw new Error('no slot');
  return slot;
};
/** What some viewers get of the first slot: the first words, or nothing. */
const gets = (of: Content, signedInAudience = 'no-tier') => {
  const audiences = [
    ...demoSnapshot.audiences,
    {
      id: 'in',
      name: 'in',
      description: '',
      condition: { kind: 'test' as const, attribute: 'signed-in', op: 'is-yes', values: [] },
    },
  ];
  void signedInAudience;
  const decider = new Decider({ ...demoSnapshot, audiences, documents: [page(of)] });
  return [null, {}, { tier: 'dusk' }, { tier: 'midnight' }].map((contact) => {
    const viewer = { contact, signedIn: contact !== null, visit: {}, item: null, instant };
    const choice = decider.decide('p', decider.facts(viewer))[0] ?? -1;
    const slot = slotIn(of);
    return (slot.variants[choice]?.content ?? slot.otherwise).length;
  });
};

describe('making something differ in one go', () => {
  const start = content(heading('a'), heading('b'), heading('c'));

  it('shows only to, hides from, and by access are complements by construction', () => {
    expect(gets(wrapBy(start, ['b'], 'B', { kind: 'only', audience: 'any-member' }, newId))).toEqual([
      0, 0, 1, 1,
    ]);
    expect(gets(wrapBy(start, ['b'], 'B', { kind: 'hide', audience: 'any-member' }, newId))).toEqual([
      1, 1, 0, 0,
    ]);
    const three = wrapBy(
      start,
      ['b', 'c'],
      'B',
      { kind: 'access', audience: 'any-member', signedIn: 'in' },
      newId,
    );
    expect(slotIn(three).variants.map(({ audience }) => audience)).toEqual(['any-member', 'in']);
    expect(gets(three)).toEqual([2, 2, 2, 2]);
    expect(new Set(ids(three)).size).toBe(ids(three).length);
  });

  it('leaves no finding behind but what it says on purpose', () => {
    for (const gesture of [
      { kind: 'only', audience: 'midnight-members' },
      { kind: 'hide', audience: 'midnight-members' },
    ] as const) {
      const { findings } = analyseDocument(
        demoSnapshot,
        page(wrapBy(start, ['b'], 'B', gesture, newId)),
        instant,
      );
      expect(findings.filter(({ severity }) => severity === 'wrong')).toEqual([]);
    }
  });

  it('takes neighbours together, at any depth, and nothing where they are not', () => {
    const nested = content(section('s', heading('a'), heading('b'), heading('c')));
    const wrapped = wrapGroup(nested, ['a', 'b'], 'Group', 'any-member', newId);
    expect(slotIn(wrapped).otherwise.map(({ id }) => id)).toEqual(['a', 'b']);
    expect(slotIn(wrapped).variants[0]?.content).toHaveLength(2);
    expect(wrapGroup(nested, ['a', 'c'], 'Group', 'any-member', newId)).toBe(nested);
    expect(wrapGroup(nested, ['a', 'none'], 'Group', 'any-member', newId)).toBe(nested);
  });

  it('copies a variant into another slot, and takes the audiences of one in its order', () => {
    const slot = (id: string, ...audiences: string[]): Slot => ({
      kind: 'slot',
      id,
      name: id,
      variants: audiences.map((audience) => ({
        id: `${id}-${audience}`,
        audience,
        content: [heading(`${id}-${audience}-h`)],
      })),
      otherwise: [heading(`${id}-else`)],
    });
    const both = content(
      slot('x', 'dusk-members', 'midnight-members'),
      slot('y', 'midnight-members', 'educators'),
    );
    const copied = copyVariant(both, { slot: 'x', variant: 'x-dusk-members' }, 'y', newId);
    expect(slotsOf(copied)[1]?.variants.map(({ audience }) => audience)).toEqual([
      'midnight-members',
      'educators',
      'dusk-members',
    ]);
    const taken = takeAudiences(both, 'y', ['dusk-members', 'midnight-members'], newId);
    expect(
      slotsOf(taken)[1]?.variants.map(({ audience, content: [first] }) => [
        audience,
        first?.id.startsWith('y-'),
      ]),
    ).toEqual([
      ['dusk-members', false],
      ['midnight-members', true],
      ['educators', true],
    ]);
  });
});

describe('an audience in a slot', () => {
  const variants = (of: Content) =>
    slotIn(of).variants.map(({ id, audience, content: [first] }) => [id, audience, first?.id]);
  const slot = (id: string, ...audiences: string[]): Slot => ({
    kind: 'slot',
    id,
    name: id,
    variants: audiences.map((audience) => ({
      id: `${id}-${audience}`,
      audience,
      content: [heading(`${id}-${audience}-h`)],
    })),
    otherwise: [heading(`${id}-else`)],
  });
  const both = content(slot('x', 'a', 'b'), slot('y', 'b', 'c'));

  it('has one variant, whatever is added, chosen, copied or taken from another slot', () => {
    expect(addVariant(both, 'x', 'b', null, newId)).toEqual(both);
    expect(variants(setVariantAudience(both, 'x', 'x-a', 'b'))).toEqual([
      ['x-a', 'b', 'x-a-h'],
      ['x-b', 'a', 'x-b-h'],
    ]);
    const copied = slotsOf(copyVariant(both, { slot: 'x', variant: 'x-b' }, 'y', newId))[1];
    expect(copied?.variants.map(({ audience }) => audience)).toEqual(['b', 'c']);
    expect(copied?.variants[0]?.content[0]).toMatchObject({ content: [{ text: 'x-b-h' }] });
    const taken = takeAudiences(both, 'x', ['c', 'b', 'c', 'b'], newId);
    expect(slotIn(taken).variants.map(({ audience }) => audience)).toEqual(['c', 'b', 'a']);
    expect(contentSchema.safeParse(taken).success).toBe(true);
  });
});

describe('lines, words and blocks', () => {
  const line = (id: string): Node => ({ kind: 'line', id, content: [{ type: 'text', text: id }] });
  const differs = (id: string, ...content: Node[]): Slot => ({
    kind: 'slot',
    id,
    name: id,
    variants: [{ id: `${id}-v`, audience: 'a', content }],
    otherwise: [],
  });
  const words: Alternatives = {
    type: 'alternatives',
    attrs: { id: 'words', name: 'w', variants: [{ id: 'w', audience: 'a', words: 'one' }], otherwise: 'two' },
  };
  const mixed: Content = {
    subject: [differs('title', line('title-line'))],
    preview: [],
    body: [
      { kind: 'heading', id: 'text', level: 2, content: [words] },
      differs('blocks', heading('inner')),
      heading('last'),
    ],
  };

  it('are told apart, slots among them', () => {
    const held = ['title', 'title-line', 'text', 'words', 'blocks', 'inner'].map((id) => heldBy(mixed, id));
    expect(held).toEqual(['line', 'line', 'blocks', 'words', 'blocks', 'blocks']);
    expect([slotOf(words), mixed.subject[0], mixed.body[1]].map((one) => one && isOfLines(one))).toEqual([
      true,
      true,
      false,
    ]);
  });

  it('never come to stand among each other', () => {
    for (const [from, into] of [
      ['title', 'blocks'],
      ['words', 'blocks'],
      ['blocks', 'title'],
      ['title', 'words'],
    ] as const) {
      const variant = findNode(mixed, from);
      if (variant?.kind !== 'slot') throw new Error(`${from} is no slot`);
      expect(copyVariant(mixed, { slot: from, variant: variant.variants[0]?.id ?? null }, into, newId)).toBe(
        mixed,
      );
    }
    for (const [id, before] of [
      ['last', 'title'],
      ['last', 'title-line'],
      ['title', 'last'],
      ['words', 'last'],
      ['last', 'words'],
    ] as const)
      for (const to of [{ before }, { after: before }]) expect(moveBeside(mixed, id, to)).toBe(mixed);
    expect(['title', 'title-line', 'words', 'inner', 'blocks'].map((id) => beside(mixed, id))).toEqual([
      { region: 'body' },
      { region: 'body' },
      { after: 'text' },
      { after: 'inner' },
      { after: 'blocks' },
    ]);
  });
});

describe('moving', () => {
  const tree = content(heading('a'), section('s', heading('b')), heading('c'));
  it('goes among neighbours, into the section above and out again, and never into itself', () => {
    const inside = stepNode(tree, 'c', 'in');
    expect(ids(inside)).toEqual(['a', 's', 'b', 'c']);
    expect(ids(stepNode(inside, 'c', 'out'))).toEqual(['a', 's', 'b', 'c']);
    expect(stepNode(inside, 'c', 'out').body.map(({ id }) => id)).toEqual(['a', 's', 'c']);
    expect(stepNode(tree, 'a', 'in')).toBe(tree);
    expect(stepNode(tree, 'a', 'up')).toEqual(tree);
    expect(ids(moveBeside(tree, 'c', { before: 'b' }))).toEqual(['a', 's', 'c', 'b']);
    expect(ids(moveBeside(tree, 'a', { after: 'b' }))).toEqual(['s', 'b', 'a', 'c']);
    expect(ids(moveBeside(tree, 'a', { after: 'c' }))).toEqual(['s', 'b', 'c', 'a']);
    for (const to of [{ before: 'b' }, { after: 'b' }]) expect(moveBeside(tree, 's', to)).toBe(tree);
    for (const to of [{ before: 'a' }, { after: 'a' }]) expect(moveBeside(tree, 'a', to)).toBe(tree);
  });

  it('loses and doubles nothing (property)', () => {
    const all = ids(tree);
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.constantFrom(...all),
            fc.oneof(
              fc.constantFrom('up', 'down', 'in', 'out'),
              fc.record({ before: fc.constantFrom(...all) }),
              fc.record({ after: fc.constantFrom(...all) }),
            ),
          ),
          { maxLength: 12 },
        ),
        (moves) => {
          let moved = tree;
          for (const [id, to] of moves)
            moved = typeof to === 'string' ? stepNode(moved, id, to) : moveBeside(moved, id, to);
          expect(ids(moved).sort()).toEqual([...all].sort());
        },
      ),
    );
  });
});

describe('words that differ within a line', () => {
  const alternatives: Alternatives = {
    type: 'alternatives',
    attrs: {
      id: 'alt',
      name: 'Who',
      variants: [{ id: 'v', audience: 'midnight-members', words: 'night owls' }],
      otherwise: 'everybody',
    },
  };
  const line = content({
    kind: 'heading',
    id: 'h',
    level: 1,
    content: [{ type: 'text', text: 'For ' }, alternatives, { type: 'text', text: '!' }],
  });
  const words = (of: Content) => {
    const node = findNode(of, 'h');
    return node?.kind === 'heading' ? node.content : [];
  };

  it('are a slot like any other: decided, analysed, changed, dissolved', () => {
    expect(slotsOf(line)).toEqual([slotOf(alternatives)]);
    expect(gets(line)).toEqual([1, 1, 1, 1]);
    expect(analyseDocument(demoSnapshot, page(line), instant).faces).toHaveLength(2);
    const other = setVariantAudience(line, 'alt', 'v', 'dusk-members');
    expect(words(other)[1]).toMatchObject({
      attrs: { variants: [{ audience: 'dusk-members', words: 'night owls' }] },
    });
    expect(words(removeVariant(line, 'alt', 'v'))[1]).toMatchObject({
      attrs: { variants: [], otherwise: 'everybody' },
    });
    expect(words(dissolveSlot(line, 'alt', 'v'))).toEqual([
      { type: 'text', text: 'For ' },
      { type: 'text', text: 'night owls' },
      { type: 'text', text: '!' },
    ]);
  });

  it('are told when they can never be shown', () => {
    const twice = content({
      kind: 'heading',
      id: 'h',
      level: 1,
      content: [
        {
          ...alternatives,
          attrs: {
            ...alternatives.attrs,
            variants: [
              { id: 'v', audience: 'any-member', words: 'members' },
              { id: 'w', audience: 'midnight-members', words: 'night owls' },
            ],
          },
        },
      ],
    });
    const { findings } = analyseDocument(demoSnapshot, page(twice), instant);
    expect(findings.map(({ kind }) => kind)).toContain('shadowed');
    const repaired = findings.find(({ kind }) => kind === 'shadowed')?.repairs[0]?.content;
    const after = repaired ? analyseDocument(demoSnapshot, page(repaired), instant).findings : [];
    expect(after.map(({ kind }) => kind)).not.toContain('shadowed');
  });
});

describe('shared content', () => {
  const pieces = new Map<string, Content>([
    [
      'offer',
      content(heading('o'), {
        kind: 'slot',
        id: 's',
        name: 'S',
        variants: [{ id: 'v', audience: 'any-member', content: [] }],
        otherwise: [],
      }),
    ],
    ['circle', content({ kind: 'shared', id: 'c', document: 'circle' })],
    ['outer', content({ kind: 'shared', id: 'i', document: 'offer' })],
  ]);

  it('stands in many places of one page under ids of its own', () => {
    const twice = content(
      { kind: 'shared', id: 'x', document: 'offer' },
      { kind: 'shared', id: 'y', document: 'outer' },
    );
    const expanded = withShared(twice, pieces);
    expect(new Set(ids(expanded)).size).toBe(ids(expanded).length);
    expect(slotsOf(expanded).map(({ id }) => id)).toEqual(['x/s', 'y/i/s']);
    expect(piecesIn(twice)).toEqual(new Set(['offer', 'outer']));
    const plain = content(heading('a'));
    expect(withShared(plain, pieces)).toBe(plain);
    const narrow = content({ kind: 'shared', id: 'x', document: 'offer', screens: 'narrow' });
    expect(withShared(narrow, pieces).body).toMatchObject([{ kind: 'section', screens: 'narrow' }]);
  });

  it('stays named where it is gone, is empty in a circle, and a circle is named', () => {
    const gone = content({ kind: 'shared', id: 'x', document: 'gone' });
    expect(withShared(gone, pieces)).toBe(gone);
    for (const document of ['circle'])
      expect(
        [...walkContent(withShared(content({ kind: 'shared', id: 'x', document }), pieces))].every(
          ({ node }) => node.kind === 'section',
        ),
      ).toBe(true);
    expect(circleOfPieces(pieces)).toEqual(['circle', 'circle']);
    expect(circleOfPieces(new Map([['offer', content()]]))).toBeUndefined();
    // A circle begins where it is entered, not where the way to it began.
    const holding = (id: string): Content => content({ kind: 'shared', id: 'x', document: id });
    expect(
      circleOfPieces(
        new Map([
          ['a', holding('b')],
          ['b', holding('c')],
          ['c', holding('b')],
        ]),
      ),
    ).toEqual(['b', 'c', 'b']);
  });
});

describe('a new block', () => {
  const kinds: Block['kind'][] = [
    'heading',
    'text',
    'picture',
    'button',
    'section',
    'divider',
    'spacer',
    'video',
    'quotation',
    'link',
    'links',
    'list',
    'field',
    'form',
    'account',
    'notice',
    'countdown',
    'html',
    'shared',
    'line',
  ];
  it.each(kinds)('%s is sound, and is copied under ids of its own', (kind) => {
    const made = newBlock(kind, newId);
    expect(made.kind).toBe(kind);
    const both = content(made, copyNode<Node>(made, newId));
    expect(contentSchema.safeParse(both).error?.issues ?? []).toEqual([]);
    expect(new Set(ids(both)).size).toBe(ids(both).length);
  });
});

describe('blocks chosen together', () => {
  it('can be made to differ where they stand next to each other in one list', () => {
    const tree = content(heading('a'), heading('b'), section('s', heading('c'), heading('d')), heading('e'));
    expect(areNeighbours(tree, ['a', 'b'])).toBe(true);
    expect(areNeighbours(tree, ['b', 'a'])).toBe(true);
    expect(areNeighbours(tree, ['c', 'd'])).toBe(true);
    expect(areNeighbours(tree, ['b', 's', 'e'])).toBe(true);
    expect(areNeighbours(tree, ['a', 's'])).toBe(false);
    expect(areNeighbours(tree, ['b', 'c'])).toBe(false);
    expect(areNeighbours(tree, ['nowhere'])).toBe(false);
    const wrapped = wrapGroup(tree, ['c', 'd'], 'Both', 'gold', newId);
    const [slot] = slotsOf(wrapped);
    expect(slot?.otherwise.map(({ id }) => id)).toEqual(['c', 'd']);
    expect(slot?.variants[0]?.content).toHaveLength(2);
    expect(wrapGroup(tree, ['a', 's'], 'Both', 'gold', newId)).toEqual(tree);
  });
});
