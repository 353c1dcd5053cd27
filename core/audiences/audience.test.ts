import { expect, it } from 'vitest';
import { all, any, inAudience, not, test } from '../conditions/condition.ts';
import { audienceNameSchema, findCircle } from './audience.ts';

const plain = { id: 'plain', condition: test('city', 'has-value') };

it('finds no circle where audiences build on each other in order', () => {
  expect(
    findCircle([
      plain,
      { id: 'a', condition: all(inAudience('plain'), inAudience('b')) },
      { id: 'b', condition: inAudience('plain') },
      { id: 'c', condition: inAudience('gone') },
    ]),
  ).toBeUndefined();
});

it('names the circle, however deep it hides', () => {
  const circle = findCircle([
    plain,
    { id: 'a', condition: all(inAudience('plain'), any(not(inAudience('b')))) },
    { id: 'b', condition: inAudience('c') },
    { id: 'c', condition: not(inAudience('a')) },
  ]);
  expect(circle).toEqual(['a', 'b', 'c', 'a']);
});

it('finds an audience that builds on itself', () => {
  expect(findCircle([{ id: 'a', condition: inAudience('a') }])).toEqual(['a', 'a']);
});

it('refuses a name of blanks', () => {
  expect(audienceNameSchema.safeParse('   ').success).toBe(false);
});
