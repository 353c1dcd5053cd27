import { type Condition, inAudience } from '../conditions/condition.ts';
import type { Content } from '../documents/document.ts';
import { never } from './diagrams/diagrams.ts';
import type { DocumentContext } from './document-context.ts';
import { allOf, noneOf, placedSlots } from './placed.ts';

/** Two variants of a slot that some viewer matches both of; the first is what they get. */
export interface Overlap {
  readonly slot: string;
  /** Places of the variants, from 0. */
  readonly first: number;
  readonly second: number;
  /** Who matches both, and none above the first. */
  readonly people: Condition;
}

/** Every two variants of each slot that a viewer who comes to it can match, where the first is the first of all they match. */
export function overlapsOf(content: Content, context: DocumentContext): Overlap[] {
  const { world, access } = context;
  const { diagrams } = world;
  return placedSlots(content, world, access).flatMap(({ slot, reach, meets }) => {
    const found: Overlap[] = [];
    const audiences = slot.variants.map(({ audience }) => audience);
    let left = reach;
    for (const [first, own] of audiences.entries()) {
      const here = diagrams.and(left, world.audience(own));
      for (let second = first + 1; second < audiences.length && here !== never; second++) {
        const other = audiences[second] ?? '';
        if (diagrams.excludes(here, world.audience(other))) continue;
        found.push({
          slot: slot.id,
          first,
          second,
          people: allOf([...meets, inAudience(own), inAudience(other), ...noneOf(audiences.slice(0, first))]),
        });
      }
      left = diagrams.and(left, diagrams.not(world.audience(own)));
    }
    return found;
  });
}
