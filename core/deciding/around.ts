import { type Content, listsOf, type Node, regionNames, type Slot } from '../documents/document.ts';
import { everyoneElse } from './decide.ts';

/** An enclosing slot, with the choice that makes its content visible. */
export interface Around {
  readonly slot: Slot;
  readonly choice: number;
}

/** The slots that enclose each node of a document, by node id, outermost first. */
export function aroundEach(content: Content): ReadonlyMap<string, readonly Around[]> {
  const found = new Map<string, readonly Around[]>();
  const walk = (nodes: readonly Node[], around: readonly Around[]): void => {
    for (const node of nodes) {
      found.set(node.id, around);
      if (node.kind !== 'slot') {
        for (const list of listsOf(node)) walk(list, around);
        continue;
      }
      for (const [choice, variant] of node.variants.entries())
        walk(variant.content, [...around, { slot: node, choice }]);
      walk(node.otherwise, [...around, { slot: node, choice: everyoneElse }]);
    }
  };
  for (const region of regionNames) walk(content[region], []);
  return found;
}

/** Whether a node is visible: every enclosing slot shows the variant that contains it. */
export function isShownIn(around: readonly Around[], choiceOf: (slot: Slot) => number): boolean {
  return around.every(({ slot, choice }) => choiceOf(slot) === choice);
}
