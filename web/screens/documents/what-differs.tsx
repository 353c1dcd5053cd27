import type { Slot } from '../../../core/documents/document.ts';
import { VariantEdge, VariantMark } from '../../parts/variant-mark.tsx';

/** What stands beside the canvas until something is chosen: the slots, and what the viewer gets in each. */
export function WhatDiffers({
  slots,
  choiceOf,
  nameOf,
  onSelect,
}: {
  slots: readonly Slot[];
  choiceOf: (slot: string) => number;
  nameOf: (audience: string) => string;
  onSelect: (slot: string) => void;
}) {
  return (
    <section aria-label="What differs here">
      <h2 className="text-[18px]">What differs here</h2>
      <ul className="mt-2 flex flex-col gap-2">
        {slots.map((slot) => {
          const choice = choiceOf(slot.id);
          const variant = slot.variants[choice];
          return (
            <li key={slot.id}>
              <button
                type="button"
                onClick={() => onSelect(slot.id)}
                className="flex w-full items-center gap-2.5 rounded-md border border-line bg-paper p-2.5 text-left hover:border-edge"
              >
                <VariantEdge choice={choice} />
                <span className="min-w-0 flex-1">
                  <span className="block font-semibold">{slot.name}</span>
                  <span className="flex items-center gap-1.5 text-quiet">
                    <VariantMark choice={choice} />
                    <span className="truncate">{variant ? nameOf(variant.audience) : 'Everyone else'}</span>
                  </span>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <p className="mt-3 text-quiet">
        {slots.length === 0
          ? 'Everybody sees the same. Choose a block and make it differ for an audience.'
          : 'Click words on the canvas to change them. A tab with a letter marks what differs and who sees it.'}
      </p>
    </section>
  );
}
