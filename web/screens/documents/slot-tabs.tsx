import { type RefObject, useEffect, useState } from 'react';
import type { Node, Slot } from '../../../core/documents/document.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';

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
      <div key={box.slot} className="pointer-events-none absolute" style={box}>
        {selected === box.slot && (
          <div className="absolute -inset-1.5 rounded-[14px] border-2 border-paper shadow-[0_0_0_1.5px_var(--ink)]" />
        )}
        <button
          type="button"
          onClick={() => onSelect(box.slot)}
          aria-pressed={selected === box.slot}
          className="pointer-events-auto absolute -left-3 -top-5 flex h-6 max-w-[calc(100%+24px)] items-center gap-1.5 rounded-md bg-paper px-1.5 text-[12px] text-ink shadow-soft"
        >
          <VariantMark choice={shown.choice} />
          <span className="truncate">{shown.label}</span>
        </button>
      </div>
    );
  });
}

function measureSlots(frame: HTMLElement, slots: readonly ShownSlot[]): Box[] {
  const origin = frame.getBoundingClientRect();
  const rectOf = new Map<string, DOMRect>();
  for (const child of frame.children)
    for (const element of child.shadowRoot?.querySelectorAll('[data-block]') ?? [])
      rectOf.set(element.getAttribute('data-block') ?? '', element.getBoundingClientRect());
  return slots.flatMap(({ slot, choice }) => {
    const rects = blockIds(slot.variants[choice]?.content ?? slot.otherwise).flatMap(
      (id) => rectOf.get(id) ?? [],
    );
    if (rects.length === 0) return [];
    const left = Math.min(...rects.map((rect) => rect.left));
    const top = Math.min(...rects.map((rect) => rect.top));
    const right = Math.max(...rects.map((rect) => rect.right));
    const bottom = Math.max(...rects.map((rect) => rect.bottom));
    return [
      {
        slot: slot.id,
        left: Math.round(left - origin.left),
        top: Math.round(top - origin.top),
        width: Math.round(right - left),
        height: Math.round(bottom - top),
      },
    ];
  });
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
