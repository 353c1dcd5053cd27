import { Fragment, type RefObject, useEffect, useState } from 'react';
import type { Node, Slot } from '../../../core/documents/document.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { narrowTab, placeTab, type Rect, type TabPlace, tabHeight } from './tab-place.ts';

export interface ShownSlot {
  slot: Slot;
  choice: number;
  label: string;
}

interface Box {
  slot: string;
  left: number;
  top: number;
  width: number;
  height: number;
  tab: TabPlace;
}

/** The letter tabs over the canvas: where each slot stands, which variant is on screen and for whom. */
export function SlotTabs({
  frame,
  slots,
  selected,
  onSelect,
}: {
  frame: RefObject<HTMLDivElement | null>;
  slots: readonly ShownSlot[];
  selected: string | null;
  onSelect: (slot: string) => void;
}) {
  const [boxes, setBoxes] = useState<readonly Box[]>([]);
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    let waiting = 0;
    // With the next picture: to measure at once would make what is typed wait for the layout of the whole page.
    const measureSoon = () => {
      cancelAnimationFrame(waiting);
      waiting = requestAnimationFrame(() => {
        const next = measureSlots(element, slots);
        setBoxes((before) => (sameBoxes(before, next) ? before : next));
      });
    };
    measureSoon();
    const observer = new ResizeObserver(measureSoon);
    observer.observe(element);
    for (const child of element.children) observer.observe(child);
    element.addEventListener('load', measureSoon, true);
    return () => {
      cancelAnimationFrame(waiting);
      observer.disconnect();
      element.removeEventListener('load', measureSoon, true);
    };
  }, [frame, slots]);
  return boxes.map((box) => {
    const shown = slots.find(({ slot }) => slot.id === box.slot);
    if (!shown) return null;
    return (
      <Fragment key={box.slot}>
        {selected === box.slot && (
          <div
            className="pointer-events-none absolute"
            style={{ left: box.left, top: box.top, width: box.width, height: box.height }}
          >
            <div className="absolute -inset-1.5 rounded-[14px] border-2 border-paper shadow-[0_0_0_1.5px_var(--ink)]" />
          </div>
        )}
        <button
          type="button"
          onClick={() => onSelect(box.slot)}
          aria-pressed={selected === box.slot}
          {...(box.tab.isNarrow && { 'aria-label': shown.label })}
          title={shown.label}
          className="absolute flex items-center gap-1.5 rounded-md bg-paper px-1.5 text-[12px] text-ink shadow-soft"
          style={{
            left: box.tab.left,
            top: box.tab.top,
            height: tabHeight,
            ...(box.tab.isNarrow ? { width: narrowTab } : { maxWidth: tabWidth(shown.label, box.width) }),
          }}
        >
          <VariantMark choice={shown.choice} />
          {!box.tab.isNarrow && <span className="truncate">{shown.label}</span>}
        </button>
      </Fragment>
    );
  });
}

/** Room for all words of a tab, in pixels, but no more than the slot is wide. */
function tabWidth(label: string, slotWidth: number): number {
  return Math.max(narrowTab, Math.min(36 + 6.6 * label.length, slotWidth + 24));
}

function measureSlots(frame: HTMLElement, slots: readonly ShownSlot[]): Box[] {
  const origin = frame.getBoundingClientRect();
  const rectOf = new Map<string, DOMRect>();
  const covered: Rect[] = [];
  const inFrame = ({ left, top, right, bottom }: Rect): Rect => ({
    left: left - origin.left,
    top: top - origin.top,
    right: right - origin.left,
    bottom: bottom - origin.top,
  });
  for (const { shadowRoot } of frame.children) {
    if (!shadowRoot) continue;
    for (const element of shadowRoot.querySelectorAll('[data-block]'))
      rectOf.set(element.getAttribute('data-block') ?? '', element.getBoundingClientRect());
    covered.push(...wordsIn(shadowRoot).map(inFrame));
  }
  return slots.flatMap(({ slot, choice, label }) => {
    const rects = blockIds(slot.variants[choice]?.content ?? slot.otherwise).flatMap(
      (id) => rectOf.get(id) ?? [],
    );
    if (rects.length === 0) return [];
    const left = Math.min(...rects.map((rect) => rect.left));
    const top = Math.min(...rects.map((rect) => rect.top));
    const right = Math.max(...rects.map((rect) => rect.right));
    const bottom = Math.max(...rects.map((rect) => rect.bottom));
    const box = inFrame({ left, top, right, bottom });
    const wide = tabWidth(label, right - left);
    const tab = placeTab(box, wide, covered, origin.width);
    const ends = { right: tab.left + (tab.isNarrow ? narrowTab : wide), bottom: tab.top + tabHeight };
    covered.push({ ...tab, ...ends });
    return [
      {
        slot: slot.id,
        left: Math.round(box.left),
        top: Math.round(box.top),
        width: Math.round(right - left),
        height: Math.round(bottom - top),
        tab: { ...tab, left: Math.round(tab.left), top: Math.round(tab.top) },
      },
    ];
  });
}

/** Where the words of a page stand, line by line. */
function wordsIn(root: ShadowRoot): DOMRect[] {
  const texts = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
  const range = document.createRange();
  const rects: DOMRect[] = [];
  while (texts.nextNode()) {
    if (!texts.currentNode.textContent?.trim()) continue;
    range.selectNodeContents(texts.currentNode);
    rects.push(...range.getClientRects());
  }
  return rects;
}

function blockIds(nodes: readonly Node[]): string[] {
  return nodes.flatMap((node) =>
    node.kind === 'slot'
      ? blockIds([...node.variants.flatMap((variant) => variant.content), ...node.otherwise])
      : [node.id],
  );
}

function sameBoxes(left: readonly Box[], right: readonly Box[]): boolean {
  return JSON.stringify(left) === JSON.stringify(right);
}
