import { expect, it } from 'vitest';
import { Presence } from './presence.ts';

it('tells who else has a document open, until they leave or are not heard of any more', () => {
  const presence = new Presence();
  const [maya, theo] = [
    { id: 1, name: 'Maya' },
    { id: 2, name: 'Theo' },
  ];
  expect(presence.here('home', maya, 0)).toEqual([]);
  expect(presence.here('home', theo, 1000)).toEqual(['Maya']);
  expect(presence.here('other', theo, 1000)).toEqual([]);
  expect(presence.here('home', maya, 2000)).toEqual(['Theo']);
  presence.gone('home', 2);
  expect(presence.here('home', maya, 3000)).toEqual([]);
  presence.here('home', theo, 4000);
  expect(presence.here('home', maya, 25_000)).toEqual([]);
});
