import { describe, expect, it } from 'vitest';
import { attribute, catalogue, choices, contact, today } from '../../test/few-attributes.ts';
import type { Attribute } from '../attributes/attribute.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { test } from '../conditions/condition.ts';
import { cellsOf, TooManyValues } from './cells.ts';

describe('cells', () => {
  const facts = (id: string, ...tests: ReturnType<typeof test>[]) =>
    cellsOf(attribute(id), tests, catalogue, today).map((cell) => cell.fact);

  it('has nothing between 2 and 3 for whole numbers, but something for others', () => {
    const between = (id: string) =>
      cellsOf(attribute(id), [test(id, 'more-than', 2), test(id, 'fewer-than', 3)], catalogue, today).some(
        ({ outcomes }) => outcomes.every(Boolean),
      );
    expect(between('orders')).toBe(false);
    expect(between('gift')).toBe(true);
  });

  it('merges what no test tells apart, missing first and by itself', () => {
    expect(facts('tier', test('tier', 'at-least', 'twilight'))).toEqual([undefined, 'dusk', 'twilight']);
    expect(facts('vip', test('vip', 'has-value'))).toEqual([undefined, true]);
    expect(facts('tier', test('tier', 'has-no-value'))).toEqual([undefined, 'dusk']);
  });

  it('holds at most one value of an exclusive group, and knows a value no test names', () => {
    const sets = facts(
      'tags',
      test('tags', 'includes-any', 'moon'),
      test('tags', 'includes-any', 'sun'),
      test('tags', 'has-value'),
    );
    expect(sets).toEqual([undefined, ['family'], ['moon'], ['sun']]);
  });

  it('knows the days at both ends of a window', () => {
    const days = facts('renewal', test('renewal', 'within-next', 2));
    expect(days).toEqual([undefined, today - 1, today]);
  });

  it('finds a text that contains two parts, and one like no other', () => {
    const cells = cellsOf(
      attribute('city'),
      [
        test('city', 'contains', 'ark'),
        test('city', 'contains', 'hav'),
        test('city', 'is-one-of', 'Larkhaven'),
      ],
      catalogue,
      today,
    );
    expect(cells.map(({ outcomes }) => outcomes.map(Number).join('')).sort()).toEqual([
      '000',
      '000',
      '010',
      '100',
      '110',
      '111',
    ]);
  });

  it('says so when a set has too many named values to be exact', () => {
    const many: Attribute = {
      ...contact,
      id: 'many',
      label: 'many',
      type: 'set',
      exclusiveGroups: [],
      choices: choices(...Array.from({ length: 20 }, (_, index) => `v${index}`)),
    };
    const own = new Catalogue([many], 'UTC');
    const wide = test('many', 'includes-any', ...Array.from({ length: 20 }, (_, index) => `v${index}`));
    expect(() => cellsOf(many, [wide], own, today)).toThrow(TooManyValues);
  });
});
