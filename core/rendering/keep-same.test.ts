import fc from 'fast-check';
import { expect, it } from 'vitest';
import { blocksIn, keepSame } from './keep-same.ts';
import type { Resolved } from './resolve.ts';

const { tree } = fc.letrec<{ tree: Resolved[]; node: Resolved }>((tie) => ({
  tree: fc.array(tie('node'), { maxLength: 4 }),
  node: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('a', 'b'),
    fc.record({
      attribute: fc.constant('city'),
      missing: fc.boolean(),
      words: fc.constantFrom('x', 'y'),
    }),
    fc.record({ html: fc.constantFrom('<b>1</b>', '<b>2</b>') }),
    fc.record({
      slot: fc.constantFrom('s1', 's2'),
      choice: fc.integer({ min: -1, max: 1 }),
      children: tie('tree'),
    }),
    fc.record({
      tag: fc.constantFrom('p', 'div'),
      attributes: fc.dictionary(fc.constantFrom('class', 'id'), fc.constantFrom('1', '2'), {
        maxKeys: 2,
        noNullPrototype: true,
      }),
      children: tie('tree'),
      block: fc.constantFrom('one', 'two', 'three', undefined),
    }),
  ),
}));

it('says what the new tree says, and is the old one where nothing changed (property)', () => {
  fc.assert(
    fc.property(tree, tree, (one, other) => {
      // As plain as what is resolved.
      const [before, after] = structuredClone([one, other]);
      expect(keepSame(before, after)).toEqual(after);
      const again = keepSame(before, structuredClone(before));
      expect(again).toEqual(before);
      for (const [at, node] of again.entries()) expect(node).toBe(before[at]);
    }),
    { numRuns: 500 },
  );
});

const block = (id: string, words: string): Resolved => ({
  tag: 'p',
  attributes: {},
  children: [words],
  block: id,
});

it('keeps what stands around one that changed, came or went', () => {
  const before = ['a', 'b', 'c', 'd'].map((id) => block(id, id));
  const after = [block('a', 'a'), block('new', 'new'), block('b', 'other'), block('d', 'd')];
  const same = keepSame(before, [...after, block('e', 'e')]);
  expect(same.map((node) => before.indexOf(node))).toEqual([0, -1, -1, 3, -1]);
  const inside = keepSame(
    [{ tag: 'section', attributes: {}, children: before, block: 's' }],
    [
      {
        tag: 'section',
        attributes: {},
        children: before.map((node, at) => (at === 2 ? block('c', 'new words') : structuredClone(node))),
        block: 's',
      },
    ],
  );
  const [section] = inside;
  expect(
    typeof section === 'object' &&
      'children' in section &&
      section.children.map((node) => before.indexOf(node)),
  ).toEqual([0, 1, -1, 3]);
  expect([...blocksIn(section ?? '')].sort()).toEqual(['a', 'b', 'c', 'd', 's']);
});
