export interface Rect {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

export interface TabPlace {
  readonly left: number;
  readonly top: number;
  /** Whether there is room for the letter only. */
  readonly isNarrow: boolean;
}

export const tabHeight = 24;
export const narrowTab = 28;
/** How far a tab may stand out over the edge of what it belongs to. */
const overEdge = 12;

/**
 * Where the tab of a slot stands so that it covers no words: at the slot's upper edge if it can, at its lower one, or
 * with its letter only, at last outside of the page.
 *
 * @param slot the box of what is in the slot, in pixels from the corner of the page
 * @param width of the tab with all its words
 * @param covered what must stay free: words, and the tabs that have their place
 * @param pageWidth of the page
 */
export function placeTab(slot: Rect, width: number, covered: readonly Rect[], pageWidth: number): TabPlace {
  for (const isNarrow of [false, true]) {
    const wide = isNarrow ? narrowTab : width;
    const [first, last] = [slot.left - overEdge, slot.right + overEdge - wide];
    for (const top of [slot.top - tabHeight + 4, slot.bottom - 4])
      for (const x of [first, last, (first + last) / 2]) {
        const left = Math.max(-overEdge, Math.min(x, pageWidth + overEdge - wide));
        const tab = { left, top, right: left + wide, bottom: top + tabHeight };
        if (!covered.some((other) => overlap(tab, other))) return { left, top, isNarrow };
      }
  }
  return { left: -narrowTab + 4, top: slot.top, isNarrow: true };
}

function overlap(one: Rect, other: Rect): boolean {
  return one.left < other.right && other.left < one.right && one.top < other.bottom && other.top < one.bottom;
}
