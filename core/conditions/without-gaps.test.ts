import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, noon, randomCondition, randomViewer } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { type Facts, factsOf } from '../attributes/viewer.ts';
import { all, type Condition, not, test } from './condition.ts';
import { compile } from './evaluate.ts';
import { withoutGaps } from './without-gaps.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');

const holdsFor = (condition: Condition, of: Facts): boolean => compile(condition, catalogue)(of);
const holds = (condition: Condition, contact: Record<string, unknown>): boolean =>
  holdsFor(condition, factsOf(catalogue, { contact, signedIn: false, visit: {}, item: null, instant: noon }));

describe('who is left out only for lack of a value', () => {
  it('is who would be in if the missing values were the ones asked for', () => {
    const condition = all(
      test('visits', 'at-least', 3),
      not(test('tier', 'is-one-of', 'dusk')),
      test('vip', 'is-yes'),
    );
    const only = all(
      withoutGaps(condition, () => true),
      not(condition),
    );
    expect(holds(only, { vip: true })).toBe(true);
    expect(holds(only, { visits: 2, vip: true })).toBe(false);
    expect(holds(only, { visits: 3, vip: true })).toBe(false);
    expect(holds(only, { tier: 'dusk' })).toBe(false);
    // Whoever lacks a tier is not Dusk, so that nobody is left out for lack of one.
    expect(withoutGaps(test('tier', 'has-no-value'), () => true)).toEqual(test('tier', 'has-no-value'));
  });

  it('never takes anybody out', () => {
    fc.assert(
      fc.property(randomCondition, randomViewer, (condition, viewer) => {
        const of = factsOf(catalogue, viewer);
        // A moment always has a value.
        const mayLack = (id: string) => catalogue.get(id)?.source !== 'moment';
        if (holdsFor(condition, of)) expect(holdsFor(withoutGaps(condition, mayLack), of)).toBe(true);
      }),
    );
  });
});
