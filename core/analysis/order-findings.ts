import { inAudience } from '../conditions/condition.ts';
import { type Content, type Slot, slotsOf } from '../documents/document.ts';
import { updateSlot } from '../documents/edit.ts';
import { deviationOf, onlyAudiences, outerSlotsOf } from '../documents/page-audiences.ts';
import type { DocumentContext, Draft } from './document-context.ts';
import { listed, quoteAudience } from './finding.ts';
import { allOf, type PlacedSlot } from './placed.ts';
import { whoSeesChange } from './slot-change.ts';

/** Finds pairs of slots that order two overlapping audiences differently, for people who see both slots. */
export function orderFindings(
  content: Content,
  placed: readonly PlacedSlot[],
  context: DocumentContext,
): Draft[] {
  const { world, names } = context;
  const { diagrams } = world;
  const found: Draft[] = [];
  const first = new Map<string, PlacedSlot[]>();
  for (const one of placed) {
    const { slot, reach } = one;
    const audiences = slot.variants.map((variant) => variant.audience);
    const reported = new Set<PlacedSlot>();
    for (const [index, before] of audiences.entries())
      for (const after of audiences.slice(index + 1)) {
        const both = diagrams.and(world.audience(before), world.audience(after));
        const other = first
          .get(`${after}\n${before}`)
          ?.find((earlier) => diagrams.meets(diagrams.and(reach, earlier.reach), both));
        if (other && !reported.has(other)) {
          reported.add(other);
          found.push({
            kind: 'order',
            severity: 'careful',
            slot: slot.id,
            variant: null,
            block: undefined,
            people: allOf([...one.meets, ...other.meets, inAudience(before), inAudience(after)]),
            sentence: () =>
              `${slot.name} has ${quoteAudience(before, names)} above ${quoteAudience(after, names)}; in ${other.slot.name} it is the other way round.`,
            candidates: () => {
              const alike = inOrderOf(content, slot, other.slot);
              return [
                {
                  label: `Use the order of ${other.slot.name}`,
                  content: alike,
                  changes: changesOf(one, alike, context),
                },
              ];
            },
          });
        }
        const key = `${before}\n${after}`;
        first.set(key, [...(first.get(key) ?? []), one]);
      }
  }
  return found;
}

function changesOf(placed: PlacedSlot, content: Content, { world }: DocumentContext) {
  const after = slotsOf(content).find(({ id }) => id === placed.slot.id);
  return whoSeesChange(placed, after ?? [], world);
}

/** A slot with the variants that another one has too in that one's order, the rest where they were. */
function inOrderOf(content: Content, slot: Slot, other: Slot): Content {
  const place = new Map(other.variants.map(({ audience }, index) => [audience, index]));
  const shared = slot.variants
    .filter(({ audience }) => place.has(audience))
    .sort((left, right) => (place.get(left.audience) ?? 0) - (place.get(right.audience) ?? 0));
  const next = shared.values();
  return updateSlot(content, slot.id, (old) => ({
    ...old,
    variants: old.variants.map((variant) =>
      place.has(variant.audience) ? (next.next().value ?? variant) : variant,
    ),
  }));
}

/** Slots whose audiences are not those that are set for the whole document, in their order. */
export function deviationFindings(
  content: Content,
  placed: readonly PlacedSlot[],
  context: DocumentContext,
): Draft[] {
  const { audiences } = content;
  const { names } = context;
  if (!audiences) return [];
  const quoted = (ids: readonly string[]) => listed(ids.map((id) => quoteAudience(id, names)));
  return outerSlotsOf(content).flatMap((slot): Draft[] => {
    const deviation = deviationOf(slot, audiences);
    const own = placed.find((one) => one.slot.id === slot.id);
    if (!deviation || !own) return [];
    const { lacking, extra, swapped } = deviation;
    const how = [
      ...(lacking.length > 0 ? [`has no variant for ${quoted(lacking)}`] : []),
      ...(extra.length > 0 ? [`has one for ${quoted(extra)}`] : []),
      ...(swapped ? [`has ${quoted([swapped[0]])} above ${quoted([swapped[1]])}`] : []),
    ];
    const alike = onlyAudiences(content, slot.id, audiences, context.newIds(content));
    return [
      {
        kind: 'deviates',
        severity: 'careful',
        slot: slot.id,
        variant: null,
        block: undefined,
        people: undefined,
        sentence: () => `${slot.name} ${listed(how)}, unlike what is set for all slots.`,
        candidates: () => [
          {
            label:
              lacking.length === 0 && !swapped
                ? `Remove its variant for ${quoted(extra)}`
                : extra.length === 0
                  ? 'Use the audiences and the order that are set'
                  : `Use the audiences and the order that are set, and remove its variant for ${quoted(extra)}`,
            content: alike,
            changes: changesOf(own, alike, context),
          },
        ],
      },
    ];
  });
}
