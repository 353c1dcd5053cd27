import { describe, expect, it } from 'vitest';
import type { Attribute } from '../../attributes/attribute.ts';
import { Catalogue } from '../../attributes/catalogue.ts';
import { test } from '../../conditions/condition.ts';
import { meaningOf } from '../../conditions/meaning.ts';
import { TextDomain } from './texts.ts';

const city: Attribute = { source: 'contact', id: 'city', label: 'city', description: '', type: 'text' };
const catalogue = new Catalogue([city], 'UTC');

/** What the first variable of a domain says of some of its cells: 0 is no value, the last any other text. */
function said(texts: readonly string[], cells: readonly number[]): string | undefined {
  // Each text is asked for by itself, so that each has a cell of its own.
  const questions = texts.map((text) => meaningOf(test('city', 'is-one-of', text), city, catalogue).question);
  return new TextDomain(city, questions).variables[0]?.say(new Set(cells));
}

describe('texts in words', () => {
  it('are those that it is, or is not, as they were written', () => {
    const towns = ['Larkhaven', 'TARNLEY', 'Ashwold'];
    expect(said(towns, [1])).toBe('city is “Larkhaven”');
    expect(said(towns, [1, 2])).toBe('city is “Larkhaven” or “TARNLEY”');
    expect(said(towns, [0, 2])).toBe('city is “TARNLEY”, or has no value');
    expect(said(towns, [0])).toBe('city has no value');
    expect(said(towns, [1, 2, 3, 4])).toBe('city has a value');
    expect(said(towns, [4])).toBe('city is not “Larkhaven”, “TARNLEY” or “Ashwold” and has a value');
    expect(said(towns, [0, 1, 4])).toBe('city is not “TARNLEY” or “Ashwold”');
  });

  it('are not listed where there are too many', () => {
    const towns = Array.from({ length: 10 }, (_, at) => `Town ${at}`);
    expect(said(towns, [1, 2, 3, 4, 5, 6, 7, 8])).toContain('“Town 7”');
    expect(said(towns, [1, 2, 3, 4, 5, 6, 7, 8, 9])).toBeUndefined();
    expect(said(towns, [11])).toBeUndefined();
    expect(said(towns, [3, 4, 5, 6, 7, 8, 9, 10, 11])).toBe(
      'city is not “Town 0” or “Town 1” and has a value',
    );
  });
});
