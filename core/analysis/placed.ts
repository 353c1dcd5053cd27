import { all, any, type Condition, inAudience, not } from '../conditions/condition.ts';
import { type Around, aroundEach } from '../deciding/around.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { type Access, type Content, type Slot, slotsOf } from '../documents/document.ts';
import type { Diagram } from './diagrams/diagrams.ts';
import { slotDiagrams } from './faces.ts';
import type { World } from './world.ts';

/** Who a slot shows one of its choices to: the first audience that somebody is in, or everyone else. */
export function whoGets(audiences: readonly string[], choice: number): Condition[] {
  const passed = choice === everyoneElse ? audiences : audiences.slice(0, choice);
  const own = audiences[choice];
  return [...(own === undefined ? [] : [inAudience(own)]), ...noneOf(passed)];
}

/** Those in none of some audiences, as parts of an "all of". */
export function noneOf(audiences: readonly string[]): Condition[] {
  const [only] = audiences;
  if (only === undefined) return [];
  return [not(audiences.length === 1 ? inAudience(only) : any(...audiences.map(inAudience)))];
}

/** The viewers who are shown the content of the given slots, on a page with restricted access. */
export function whoMeets(around: readonly Around[], access: Access | null | undefined): Condition[] {
  return [
    ...(access ? [inAudience(access.audience)] : []),
    ...around.flatMap(({ slot, choice }) =>
      whoGets(
        slot.variants.map(({ audience }) => audience),
        choice,
      ),
    ),
  ];
}

/** A condition of some parts, the plainest that there is. */
export function allOf(parts: readonly Condition[]): Condition {
  const [only] = parts;
  return parts.length === 1 && only ? only : all(...parts);
}

/** A slot in its document, with the viewers who come to it. */
export interface PlacedSlot {
  readonly slot: Slot;
  /** Its place among all slots in reading order. */
  readonly index: number;
  readonly around: readonly Around[];
  /** Who gets which choice; hidden where an outer slot shows another variant. */
  readonly diagram: Diagram;
  /** The possible viewers to whom it is shown at all. */
  readonly reach: Diagram;
  /** The same as a condition's parts. */
  readonly meets: readonly Condition[];
}

/** Every slot of a document with those who come to it, in reading order. */
export function placedSlots(content: Content, world: World, access: Access | null | undefined): PlacedSlot[] {
  const { diagrams } = world;
  const shown = slotDiagrams(content, world);
  const slots = slotsOf(content);
  const indexOf = new Map(slots.map((slot, index) => [slot.id, index]));
  const around = aroundEach(content);
  return slots.map((slot, index) => {
    const outside = around.get(slot.id) ?? [];
    const holder = outside.at(-1);
    const outer = holder && shown[indexOf.get(holder.slot.id) ?? -1];
    return {
      slot,
      index,
      around: outside,
      diagram: shown[index] ?? 0,
      reach:
        holder && outer !== undefined ? world.possibly(diagrams.where(outer, holder.choice)) : world.possible,
      meets: whoMeets(outside, access),
    };
  });
}
