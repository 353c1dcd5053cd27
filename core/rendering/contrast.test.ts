import { expect, it } from 'vitest';
import { contrast } from './contrast.ts';

// WCAG 2.2: 21 for black on white, 1 for a colour on itself; #767676 on white is the lightest grey of 4.5 (from memory).
it.each([
  ['#000000', '#ffffff', 21],
  ['#ffffff', '#000000', 21],
  ['#336699', '#336699', 1],
  ['#767676', '#ffffff', 4.54],
  ['#777777', '#ffffff', 4.48],
])('the contrast of %s and %s is %d', (one, two, ratio) => {
  expect(contrast(one, two)).toBeCloseTo(ratio, 2);
});
