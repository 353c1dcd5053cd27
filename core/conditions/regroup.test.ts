import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { all, any, type Condition, leavesOf, not, test } from './condition.ts';
import { movePart, partAt, pathOf, type Step, stepPart } from './regroup.ts';

const [a, b, c, d] = ['a', 'b', 'c', 'd'].map((id) => test(id, 'is-yes')) as [
  Condition,
  Condition,
  Condition,
  Condition,
];

/** Conditions whose every test is another one. */
const tree = fc
  .letrec<{ node: Condition }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 4, withCrossShrink: true },
      fc.constant(a),
      fc.array(tie('node'), { minLength: 1, maxLength: 4 }).map((of) => all(...of)),
      fc.array(tie('node'), { minLength: 1, maxLength: 4 }).map((of) => any(...of)),
      tie('node').map((of) => not(of)),
    ),
  }))
  .node.map((node) => {
    let number = 0;
    const named = (one: Condition): Condition =>
      one.kind === 'test'
        ? test(`t${number++}`, 'is-yes')
        : one.kind === 'not'
          ? not(named(one.of))
          : one.kind === 'audience'
            ? one
            : { ...one, of: one.of.map(named) };
    return all(named(node), named(node));
  });

function paths(node: Condition, at = ''): string[] {
  const join = (step: string) => (at === '' ? step : `${at}.${step}`);
  if (node.kind === 'not') return [at, ...paths(node.of, join('of'))];
  if (node.kind === 'all' || node.kind === 'any')
    return [at, ...node.of.flatMap((part, index) => paths(part, join(`of.${index}`)))];
  return [at];
}

const leaves = (condition: Condition) =>
  [...leavesOf(condition)].map((leaf) => (leaf.kind === 'test' ? leaf.attribute : leaf.audience)).sort();

describe('moving a part of a condition', () => {
  it('changes places, enters and leaves groups', () => {
    const root = all(a, any(b, c), d);
    expect(stepPart(root, 'of.2', 'up')).toEqual(all(a, d, any(b, c)));
    expect(stepPart(root, 'of.0', 'down')).toEqual(all(any(b, c), a, d));
    expect(stepPart(root, 'of.2', 'in')).toEqual(all(a, any(b, c, d)));
    expect(stepPart(root, 'of.1.of.1', 'out')).toEqual(all(a, any(b), c, d));
    expect(stepPart(root, 'of.1.of.1', 'up')).toEqual(all(a, any(c, b), d));
    expect(movePart(root, 'of.0', { group: 'of.1', at: 1 })).toEqual(all(any(b, a, c), d));
  });

  it('leaves a group that stands under a “not” with it, and has nowhere to go from the outermost', () => {
    expect(stepPart(all(a, not(any(b, c)), d), 'of.1.of.of.0', 'out')).toEqual(all(a, not(any(c)), b, d));
    expect(stepPart(all(a, not(not(any(b, c)))), 'of.1.of.of.of.1', 'out')).toEqual(
      all(a, not(not(any(b))), c),
    );
    expect(stepPart(all(a, b), 'of.0', 'out')).toBeUndefined();
    expect(stepPart(not(all(a, b)), 'of.of.0', 'out')).toBeUndefined();
  });

  it('makes a group of the other kind of two single parts', () => {
    expect(stepPart(all(a, b, c), 'of.1', 'in')).toEqual(all(any(a, b), c));
    expect(stepPart(any(a, b), 'of.1', 'in')).toEqual(any(all(a, b)));
  });

  it('takes a “not” along, and goes out past it', () => {
    const root = all(not(any(a, b)), not(c));
    expect(stepPart(root, 'of.0.of.of.1', 'out')).toEqual(all(not(any(a)), b, not(c)));
    expect(stepPart(root, 'of.1', 'in')).toEqual(all(not(any(a, b, not(c)))));
  });

  it('lets an empty group go, and refuses what can’t be', () => {
    expect(stepPart(all(any(a), b), 'of.0.of.0', 'out')).toEqual(all(a, b));
    const root = all(any(a, b), c);
    expect(movePart(root, 'of.0', { group: 'of.0', at: 1 })).toBeUndefined();
    expect(movePart(root, 'of.7', { group: '', at: 0 })).toBeUndefined();
    expect(movePart(root, 'of.0', { group: 'of.1', at: 0 })).toBeUndefined();
    expect(stepPart(root, 'of.0', 'up')).toBeUndefined();
    expect(stepPart(root, 'of.1', 'down')).toBeUndefined();
    expect(stepPart(root, 'of.0', 'out')).toBeUndefined();
    expect(stepPart(root, 'of.0', 'in')).toBeUndefined();
  });

  it('never loses, doubles or invents a test, wherever it goes', () => {
    fc.assert(
      fc.property(tree, fc.nat(), fc.nat(), fc.nat({ max: 5 }), (root, from, to, at) => {
        const known = paths(root);
        const path = known[from % known.length] ?? '';
        const group = known[to % known.length] ?? '';
        const moved = movePart(root, path, { group, at });
        const parts = partAt(root, group);
        const fits = parts && 'of' in parts && Array.isArray(parts.of) && at <= parts.of.length;
        if (moved && fits && path !== '' && /\d$/.test(path)) {
          expect(leaves(moved)).toEqual(leaves(root));
          const part = partAt(root, path);
          expect(part && pathOf(moved, part)).toBeDefined();
        }
        for (const step of ['up', 'down', 'in', 'out'] as Step[]) {
          const stepped = stepPart(root, path, step);
          if (stepped) expect(leaves(stepped)).toEqual(leaves(root));
        }
      }),
      { numRuns: 1000 },
    );
  });
});
