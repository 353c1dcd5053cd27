import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { narrowTab, placeTab, type Rect, tabHeight } from './tab-place.ts';

const rect = (left: number, top: number, width: number, height: number): Rect => ({
  left,
  top,
  right: left + width,
  bottom: top + height,
});
const slot = rect(40, 100, 600, 80);

describe('the place of a tab', () => {
  it('is at the upper left while nothing is there, else to the right, below, or narrow', () => {
    const words = (...covered: Rect[]) => placeTab(slot, 200, covered, 700);
    expect(words()).toEqual({ left: 28, top: 80, isNarrow: false });
    expect(words(rect(40, 70, 100, 20))).toEqual({ left: 452, top: 80, isNarrow: false });
    const above = rect(0, 60, 700, 44);
    expect(words(above)).toEqual({ left: 28, top: 176, isNarrow: false });
    const below = rect(60, 170, 640, 44);
    expect(words(above, below)).toEqual({ left: 28, top: 176, isNarrow: true });
    expect(words(above, rect(0, 170, 700, 44))).toEqual({ left: 4 - narrowTab, top: 100, isNarrow: true });
  });

  it('covers no words inside of the page, wherever they stand', () => {
    const number = (max: number) => fc.integer({ min: 0, max });
    const rects = fc.tuple(number(700), number(300), number(300), number(40)).map((four) => rect(...four));
    fc.assert(
      fc.property(rects, fc.array(rects, { maxLength: 40 }), number(300), (of, words, width) => {
        const wide = Math.max(narrowTab, width);
        const { left, top, isNarrow } = placeTab(of, wide, words, 700);
        const right = left + (isNarrow ? narrowTab : wide);
        // Words at the very edge of the page may lie under what stands out of it.
        for (const word of words) {
          const isClear =
            word.right <= left || word.left >= right || word.bottom <= top || word.top >= top + tabHeight;
          expect(isClear || word.left < 4).toBe(true);
        }
      }),
    );
  });
});
