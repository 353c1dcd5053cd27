import { type Content, listsOf, type Node, regionNames, slotsOf } from '../documents/document.ts';
import { everyoneElse } from './decide.ts';

/** A slot inside a variant that is not shown. */
export const hidden = -2;

/** The key of a combination of choices, the same for faces and for decisions. */
export function faceKey(choices: Iterable<number>): string {
  return Array.isArray(choices) ? choices.join() : [...choices].join();
}

/**
 * Tells which slots of a document are visible after its decisions: a slot inside a variant that isn't shown is hidden. The
 * nesting is computed once; most documents have none.
 */
export function visibilityOf(content: Content): (choices: ArrayLike<number>) => number[] {
  const order = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  /** Nested slots, with the choice of the outer slot that shows them. */
  const inner: { slot: number; outer: number; choice: number }[] = [];
  const walk = (nodes: readonly Node[], within: { outer: number; choice: number } | undefined): void => {
    for (const node of nodes) {
      if (node.kind !== 'slot') {
        for (const list of listsOf(node)) walk(list, within);
        continue;
      }
      const slot = order.get(node.id) ?? 0;
      if (within) inner.push({ slot, ...within });
      for (const [choice, variant] of node.variants.entries()) walk(variant.content, { outer: slot, choice });
      walk(node.otherwise, { outer: slot, choice: everyoneElse });
    }
  };
  for (const region of regionNames) walk(content[region], undefined);
  return (choices) => {
    const visible: number[] = [];
    for (let slot = 0; slot < order.size; slot++) visible.push(choices[slot] ?? everyoneElse);
    // Outer slots come first, so their visibility is known here.
    for (const { slot, outer, choice } of inner) if (visible[outer] !== choice) visible[slot] = hidden;
    return visible;
  };
}
