import { Fragment, type RefObject } from 'react';
import type { Node, Slot } from '../../../core/documents/document.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { narrowTab, placeTab, type Rect, type TabPlace, tabHeight } from './tab-place.ts';
import { useMeasured, viewMargin } from './use-measured.ts';

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
  const boxes = useMeasured(frame, (element) => measureSlots(element, slots), [slots]) ?? [];
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

/** Where the slots stand that are in view or near, and their tabs. */
function measureSlots(frame: HTMLElement, slots: readonly ShownSlot[]): Box[] {
  const origin = frame.getBoundingClientRect();
  const elements = new Map<string, Element>();
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
      elements.set(element.getAttribute('data-block') ?? '', element);
    covered.push(...wordsNear(shadowRoot).map(inFrame));
  }
  return slots.flatMap(({ slot, choice, label }) => {
    const rects = blockIds(slot.variants[choice]?.content ?? slot.otherwise).flatMap(
      (id) => elements.get(id)?.getBoundingClientRect() ?? [],
    );
    if (!rects.some(isNear)) return [];
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

/** Whether something is in the window, or not far above or below it. */
function isNear({ top, bottom }: DOMRect): boolean {
  return bottom > -viewMargin && top < window.innerHeight + viewMargin;
}

/** Where the words stand that are in view or near, line by line. */
function wordsNear(root: ShadowRoot): DOMRect[] {
  const texts = document.createTreeWalker(root, NodeFilter.SHOW_TEXT | NodeFilter.SHOW_ELEMENT, (node) => {
    if (node instanceof Text)
      return node.data.trim() === '' ? NodeFilter.FILTER_REJECT : NodeFilter.FILTER_ACCEPT;
    // Nothing in a block far away is measured: on a long page that is nearly all.
    const isFar =
      node instanceof Element && node.hasAttribute('data-block') && !isNear(node.getBoundingClientRect());
    return isFar ? NodeFilter.FILTER_REJECT : NodeFilter.FILTER_SKIP;
  });
  const range = document.createRange();
  const rects: DOMRect[] = [];
  while (texts.nextNode()) {
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
