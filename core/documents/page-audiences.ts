import { ancestorsOf, type Content, listsOf, type Node, regionNames, type Slot } from './document.ts';
import { type NewId, takeAudiences, updateSlot, wrapGroup } from './edit.ts';

/** How a slot differs from the audiences that are set for its whole document. */
export interface Deviation {
  /** Audiences of the document that the slot has no variant for, in order. */
  readonly lacking: readonly string[];
  /** Audiences of the slot that the document is not for. */
  readonly extra: readonly string[];
  /** The first two that the slot asks the other way round; undefined where its order is the document's. */
  readonly swapped: readonly [first: string, second: string] | undefined;
}

/** How a slot deviates from some audiences in their order; undefined where it does not. */
export function deviationOf(slot: Slot, audiences: readonly string[]): Deviation | undefined {
  const own = slot.variants.map(({ audience }) => audience);
  const lacking = audiences.filter((audience) => !own.includes(audience));
  const extra = own.filter((audience) => !audiences.includes(audience));
  const places = own.map((audience) => audiences.indexOf(audience)).filter((place) => place >= 0);
  const at = places.findIndex((place, index) => place > (places[index + 1] ?? Number.POSITIVE_INFINITY));
  const [first, second] = [audiences[places[at] ?? -1], audiences[places[at + 1] ?? -1]];
  const swapped = first !== undefined && second !== undefined ? ([first, second] as const) : undefined;
  return lacking.length === 0 && extra.length === 0 && !swapped ? undefined : { lacking, extra, swapped };
}

/** The slots that the audiences of a document are for: all but those inside another, which chooses among them already. */
export function outerSlotsOf(content: Content): Slot[] {
  const found: Slot[] = [];
  const walk = (nodes: readonly Node[]): void => {
    for (const node of nodes) {
      if (node.kind === 'slot') found.push(node);
      else for (const list of listsOf(node)) walk(list);
    }
  };
  for (const region of regionNames) walk(content[region]);
  return found;
}

/**
 * Sets the audiences of a whole document and their order. The slots that had those of before have the new ones from then
 * on: a new audience gets a variant that begins as a copy of everyone else, and a variant whose audience goes, goes with
 * it. A slot that deviated stays as it is.
 *
 * @param audiences none takes the setting away, and changes no slot
 */
export function setAudiences(content: Content, audiences: readonly string[], newId: NewId): Content {
  const { audiences: before, ...rest } = content;
  if (audiences.length === 0) return rest;
  const set: Content = { ...rest, audiences: [...audiences] };
  if (!before) return set;
  return outerSlotsOf(content)
    .filter((slot) => !deviationOf(slot, before))
    .reduce((changed, slot) => onlyAudiences(changed, slot.id, audiences, newId), set);
}

/** Gives every slot of a document its audiences in its order; variants for others stay, at the end. */
export function spreadAudiences(content: Content, newId: NewId): Content {
  const { audiences } = content;
  if (!audiences) return content;
  return outerSlotsOf(content)
    .filter((slot) => deviationOf(slot, audiences))
    .reduce((changed, { id }) => takeAudiences(changed, id, audiences, newId), content);
}

/**
 * Puts a slot around neighbours with a variant for each audience that is set for the document, each a copy of them.
 * Nothing changes where none is set, or where they are not neighbours.
 */
export function wrapForAll(content: Content, ids: readonly string[], name: string, newId: NewId): Content {
  const { audiences = [] } = content;
  const [first] = audiences;
  const [id] = ids;
  if (first === undefined || id === undefined) return content;
  const wrapped = wrapGroup(content, ids, name, first, newId);
  const slot = ancestorsOf(wrapped, id).at(-1);
  return wrapped === content || slot?.kind !== 'slot'
    ? content
    : takeAudiences(wrapped, slot.id, audiences, newId);
}

/** Gives a slot these audiences in this order, and removes its variants for others. */
export function onlyAudiences(
  content: Content,
  slotId: string,
  audiences: readonly string[],
  newId: NewId,
): Content {
  return updateSlot(takeAudiences(content, slotId, audiences, newId), slotId, (slot) => ({
    ...slot,
    variants: slot.variants.filter(({ audience }) => audiences.includes(audience)),
  }));
}
