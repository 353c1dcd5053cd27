import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { Ungroup } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Cast } from '../../../contract/documents.ts';
import { everyoneElse } from '../../../core/deciding/decide.ts';
import { type Channel, firstWords, type Slot, variantLetter } from '../../../core/documents/document.ts';
import { deviationOf } from '../../../core/documents/page-audiences.ts';
import { useSayOutcome } from '../../data/counts.ts';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { Button } from '../../parts/button.tsx';
import { dragWords } from '../../parts/drag-words.ts';
import { Idea } from '../../parts/idea.tsx';
import { PickButton } from '../../parts/pick-button.tsx';
import { VariantEdge, VariantMark } from '../../parts/variant-mark.tsx';
import { OverlapLines, type Overlaps } from './overlap-lines.tsx';
import { quoted, type SlotActions } from './slot-actions.ts';
import { VariantCard } from './variant-card.tsx';

/** A slot's variants in order of precedence, and what everybody else gets. */
export function SlotPanel({
  slot,
  others: otherSlots,
  alike,
  isLine,
  choice,
  outcomes,
  audiences,
  setForAll,
  overlaps,
  channel,
  label,
  actions,
}: {
  slot: Slot;
  /** The other slots of the document. */
  others: readonly Slot[];
  /** Those of them that can hold what this one holds. */
  alike: readonly Slot[];
  /** Whether it is a subject, preview line or title, which always has words for everyone. */
  isLine: boolean;
  /** What is on screen. */
  choice: number;
  outcomes: Cast['slots'][number]['outcomes'] | undefined;
  audiences: readonly ListedAudience[];
  /** The audiences that are set for all slots of the document, in order. */
  setForAll: readonly string[] | undefined;
  /** Variants of the slot that some match both of. */
  overlaps: Overlaps;
  channel: Channel;
  label: (attribute: string) => string;
  actions: SlotActions;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const say = ({ attribute }: { attribute: string }) => `{${label(attribute)}}`;
  const nameOfVariant = (id: string) => {
    const at = slot.variants.findIndex((variant) => variant.id === id);
    const audience = audiences.find((one) => one.id === slot.variants[at]?.audience)?.name;
    return `variant ${variantLetter(at)}, ${audience ?? 'a deleted audience'}`;
  };
  const sayOutcome = useSayOutcome();
  const others = sayOutcome(slot, everyoneElse, outcomes?.at(-1)?.count);
  return (
    <section aria-label={`Slot ${slot.name}`}>
      <div className="flex items-baseline gap-2">
        <input
          aria-label="Name of the slot"
          value={slot.name}
          onChange={(event) => event.target.value !== '' && actions.rename(event.target.value)}
          maxLength={120}
          className="-mx-1 min-w-0 flex-1 rounded-md bg-transparent px-1 font-display text-[18px] font-semibold"
        />
        <span className="text-[12px] text-quiet">first match wins</span>
      </div>
      <div className="mt-2 empty:hidden">
        <Idea term="slot" />
      </div>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        accessibility={dragWords(nameOfVariant)}
        onDragEnd={({ active, over }) => {
          const to = slot.variants.findIndex((variant) => variant.id === over?.id);
          if (to >= 0 && active.id !== over?.id) actions.moveVariant(String(active.id), to);
        }}
      >
        <SortableContext
          items={slot.variants.map((variant) => variant.id)}
          strategy={verticalListSortingStrategy}
        >
          <ol className="mt-2 flex flex-col gap-2">
            {slot.variants.map((variant, index) => (
              <VariantCard
                key={variant.id}
                id={variant.id}
                choice={index}
                shown={choice === index}
                audience={variant.audience}
                audiences={audiences}
                words={firstWords(variant.content, say)}
                people={sayOutcome(slot, index, outcomes?.[index]?.count)}
                actions={actions}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <div
        className={`mt-2 flex gap-2.5 rounded-md border bg-paper p-2.5 ${choice < 0 ? 'border-ink ring-1 ring-ink' : 'border-line'}`}
      >
        <VariantEdge choice={-1} />
        <div className="min-w-0 flex-1">
          <button
            type="button"
            className="flex w-full items-center gap-2 text-left"
            onClick={() => actions.show(-1)}
          >
            <VariantMark choice={-1} />
            <span className="flex-1 font-semibold">Everyone else</span>
            {others !== '' && <span className="font-semibold">{others}</span>}
          </button>
          <div className="mt-1 flex items-baseline gap-2 text-quiet">
            <span className="min-w-0 flex-1 truncate">
              {slot.otherwise.length === 0 ? 'nothing' : quoted(firstWords(slot.otherwise, say))}
            </span>
            {choice < 0 && <span className="text-leaf">on screen</span>}
          </div>
          <div className="mt-1 text-[13px]">
            {slot.otherwise.length === 0 ? (
              <button type="button" className="underline underline-offset-2" onClick={actions.writeOtherwise}>
                Write something
              </button>
            ) : isLine ? null : (
              <button
                type="button"
                className="text-quiet underline underline-offset-2 hover:text-ink"
                onClick={actions.setNothing}
              >
                Show nothing instead
              </button>
            )}
          </div>
        </div>
      </div>
      <OverlapLines overlaps={overlaps} channel={channel} />
      <div className="mt-2 flex flex-wrap gap-2">
        <AudienceButton label="A variant for…" audiences={audiences} onChoose={actions.addVariant} />
        <Button look="quiet" icon={<Ungroup size={15} aria-hidden />} onClick={actions.dissolve}>
          Same for all
        </Button>
      </div>
      {setForAll && deviationOf(slot, setForAll) && (
        <Button look="quiet" className="mt-2" onClick={() => actions.takeAudiences(setForAll)}>
          Use the audiences set for all slots
        </Button>
      )}
      {otherSlots.length > 0 && (
        <div className="mt-2 flex flex-col gap-1">
          {alike.length > 0 && (
            <OtherSlot
              label={`Copy ${choice < 0 ? 'this' : variantLetter(choice)} into…`}
              slots={alike}
              onChoose={({ id }) => actions.copyInto(slot.variants[choice]?.id ?? null, id)}
            />
          )}
          <OtherSlot
            label="Same audiences and order as…"
            slots={otherSlots.filter(({ variants }) => variants.length > 0)}
            onChoose={({ variants }) => actions.takeAudiences(variants.map(({ audience }) => audience))}
          />
        </div>
      )}
    </section>
  );
}

function OtherSlot({
  label,
  slots,
  onChoose,
}: {
  label: string;
  slots: readonly Slot[];
  onChoose: (slot: Slot) => void;
}) {
  return (
    <PickButton
      label={label}
      options={slots.map(({ id, name }) => ({ id, label: name }))}
      onChoose={(chosen) => {
        const slot = slots.find(({ id }) => id === chosen);
        if (slot) onChoose(slot);
      }}
    />
  );
}
