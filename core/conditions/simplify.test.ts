import { describe, expect, it } from 'vitest';
import { all, any, type Condition, not, test } from './condition.ts';
import { simplify } from './simplify.ts';

describe('simplifying', () => {
  const [dusk, vip] = [test('tier', 'is-one-of', 'dusk'), test('vip', 'is-yes')];
  it.each<[string, Condition, Condition]>([
    ['a group in a group of its kind', all(dusk, all(vip)), all(dusk, vip)],
    ['what is said twice', any(dusk, dusk), dusk],
    ['not of not', not(not(dusk)), dusk],
    ['a test with an opposite', not(test('tags', 'includes-any', 'a')), test('tags', 'includes-none', 'a')],
    ['but not “is no”, which a missing value is not', not(vip), not(vip)],
    [
      'two values of one choice',
      any(dusk, test('tier', 'is-one-of', 'midnight')),
      test('tier', 'is-one-of', 'dusk', 'midnight'),
    ],
    [
      'but not those of two attributes',
      any(dusk, test('plan', 'is-one-of', 'dusk')),
      any(dusk, test('plan', 'is-one-of', 'dusk')),
    ],
    [
      'nor of two tests',
      any(dusk, test('tier', 'at-least', 'midnight')),
      any(dusk, test('tier', 'at-least', 'midnight')),
    ],
    ['values that exclude each other', all(dusk, test('tier', 'is-one-of', 'midnight')), any()],
    ['a thing and its opposite', any(vip, not(vip)), all()],
    ['what a wider part swallows', all(vip, any(vip, dusk)), vip],
    ['everybody among others', any(all(), dusk), all()],
    ['nobody among others', any(any(), dusk), dusk],
  ])('%s', (_name, condition, simple) => {
    expect(simplify(condition)).toEqual(simple);
  });
});
