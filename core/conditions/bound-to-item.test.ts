import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, noon, randomConditionOf, randomValues } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import { boundToItem } from './bound-to-item.ts';
import { all, any, type Condition, inAudience, leavesOf, not, test } from './condition.ts';
import { compile } from './evaluate.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');
const item = { author: 'Élise', 'tiers-for': ['dusk', 'midnight'] };

describe('a condition for whoever looks at one item', () => {
  it('asks nothing of the item any more, and of the viewer what was compared with it', () => {
    const bound = (condition: Condition) => boundToItem(condition, item, catalogue, noon);
    expect(bound(test('author', 'is-one-of', 'Élise'))).toEqual(all());
    expect(bound(test('author', 'is-one-of', 'Nuño'))).toEqual(any());
    expect(bound(test('tiers-for', 'includes-own', 'tier'))).toEqual(
      test('tier', 'is-one-of', 'dusk', 'midnight'),
    );
    expect(bound(not(test('author', 'same-as', 'city')))).toEqual(not(test('city', 'is-one-of', 'Élise')));
    expect(boundToItem(test('tiers-for', 'includes-own', 'tier'), {}, catalogue, noon)).toEqual(any());
    expect(bound(all(inAudience('others'), test('tier', 'has-value')))).toEqual(
      all(inAudience('others'), test('tier', 'has-value')),
    );
  });

  it('leaves a test with an error as it is', () => {
    for (const wrong of [
      test('gone', 'has-value'),
      test('author', 'at-least', 3),
      test('author', 'same-as', 'vip'),
    ])
      expect(boundToItem(wrong, item, catalogue, noon)).toEqual(wrong);
  });

  it('has the same outcome as before for every viewer of the item (property)', () => {
    const values = fc.record(
      {
        author: fc.constantFrom('Larkhaven', 'lark', 'Élise'),
        'tiers-for': fc.subarray(['dusk', 'twilight', 'midnight']),
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(randomConditionOf(attributes), randomValues, values, (condition, contact, fields) => {
        const viewer = { contact, signedIn: true, visit: {}, instant: noon };
        const bound = boundToItem(condition, fields, catalogue, noon);
        for (const leaf of leavesOf(bound))
          expect(leaf.kind === 'test' && catalogue.get(leaf.attribute)?.source).not.toBe('item');
        const outcome = (of: Condition, seen: Record<string, unknown> | null) =>
          compile(of, catalogue)(factsOf(catalogue, { ...viewer, item: seen }));
        expect(outcome(bound, null)).toBe(outcome(condition, fields));
      }),
    );
  });
});
