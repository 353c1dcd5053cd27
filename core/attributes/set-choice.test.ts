import { describe, expect, it } from 'vitest';
import type { Attribute } from './attribute.ts';
import { withChoice } from './set-choice.ts';

const choice = (id: string) => ({ id, label: id });
const attribute: Attribute = {
  id: 'roles',
  source: 'contact',
  type: 'set',
  label: 'roles',
  description: '',
  choices: ['adult', 'child', 'member', 'guest', 'blue'].map(choice),
  exclusiveGroups: [
    { name: 'age', members: ['adult', 'child'] },
    { name: 'kind', members: ['member', 'guest'] },
  ],
};

describe('a choice of a set', () => {
  it('is added once, and taken away', () => {
    expect(withChoice(attribute, ['blue'], 'adult', true)).toEqual(['blue', 'adult']);
    expect(withChoice(attribute, ['blue', 'adult'], 'adult', true)).toEqual(['blue', 'adult']);
    expect(withChoice(attribute, ['blue', 'adult'], 'blue', false)).toEqual(['adult']);
    expect(withChoice(attribute, ['blue'], 'adult', false)).toEqual(['blue']);
  });

  it('takes the place of its fellows of an exclusive group, and of nobody else', () => {
    expect(withChoice(attribute, ['adult', 'member', 'blue'], 'child', true)).toEqual([
      'member',
      'blue',
      'child',
    ]);
    expect(withChoice(attribute, ['child', 'guest'], 'member', true)).toEqual(['child', 'member']);
  });
});
