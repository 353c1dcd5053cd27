import { describe, expect, it } from 'vitest';
import { attributes } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { all, any, inAudience, not, test } from './condition.ts';
import { say } from './words.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');

describe('words', () => {
  it('reads as a sentence', () => {
    const condition = all(
      test('tier', 'is-one-of', 'dusk', 'twilight'),
      any(test('visits', 'at-least', 3), test('tags', 'includes-all', 'a', 'b')),
      not(inAudience('staff')),
    );
    expect(say(condition, catalogue, (id) => id)).toBe(
      'tier is dusk or twilight and (visits is at least 3 or tags include a and b) and not (in “staff”)',
    );
    expect(say(test('renewal', 'within-next', 30), catalogue, () => '')).toBe(
      'renewal is within the next 30 days',
    );
    expect(say(all(), catalogue, () => '')).toBe('everybody');
  });
});
