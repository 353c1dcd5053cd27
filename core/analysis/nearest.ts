import type { Facts } from '../attributes/viewer.ts';
import { everyoneElse } from '../deciding/decide.ts';
import type { Content, Slot } from '../documents/document.ts';
import { always, type Diagram, isOutcome, never } from './diagrams.ts';
import { slotDiagrams } from './faces.ts';
import type { CellMeaning, World } from './world.ts';

/** One thing that would have to be otherwise about a viewer; `value` undefined means: had no value. */
export type Otherwise = CellMeaning;

/**
 * The fewest things that would have to be otherwise about a viewer for a diagram to hold: an empty list where it
 * holds already, undefined where nothing could make it hold. Attributes that a change does not name stay as they are.
 * A shortest path through the diagram, each cell that is not the viewer's own costing one.
 */
export function nearest(diagram: Diagram, facts: Facts, world: World): Otherwise[] | undefined {
  const { diagrams } = world;
  const place = world.placeOf(facts);
  const known = new Map<Diagram, { cost: number; level: number; cell: number; next: Diagram } | undefined>();
  const cheapest = (node: Diagram): number => {
    if (isOutcome(node)) return node === always ? 0 : Number.POSITIVE_INFINITY;
    const found = known.get(node);
    if (found) return found.cost;
    const level = diagrams.levelOf(node);
    const own = place.get(level) ?? 0;
    let best = { cost: Number.POSITIVE_INFINITY, level, cell: own, next: never };
    // The viewer's own cell first, so that nothing changes without need.
    const cells = [own, ...Array.from({ length: diagrams.cellsAt(node) }, (_, cell) => cell)];
    for (const cell of cells) {
      const next = diagrams.at(node, level, cell);
      const cost = cheapest(next) + (cell === own ? 0 : 1);
      if (cost < best.cost) best = { cost, level, cell, next };
    }
    known.set(node, best);
    return best.cost;
  };
  const root = world.possibly(diagram);
  if (cheapest(root) === Number.POSITIVE_INFINITY) return undefined;
  const changes: Otherwise[] = [];
  for (let node = root; !isOutcome(node); ) {
    const step = known.get(node);
    if (!step) break;
    if (step.cell !== (place.get(step.level) ?? 0)) changes.push(world.meaning(step.level, step.cell));
    node = step.next;
  }
  return changes;
}

/** For each choice of a slot that a viewer does not get, the fewest changes that would lead to it; nearest first. */
export function alternativesOf(
  slot: Slot,
  current: number,
  facts: Facts,
  world: World,
): { choice: number; changes: Otherwise[] }[] {
  const variants = slot.variants.map((variant) => ({ ...variant, content: [] }));
  const alone: Content = { subject: [], preview: [], body: [{ ...slot, variants, otherwise: [] }] };
  const [diagram = never] = slotDiagrams(alone, world);
  return [everyoneElse, ...variants.keys()]
    .filter((choice) => choice !== current)
    .flatMap((choice) => {
      const changes = nearest(world.diagrams.where(diagram, choice), facts, world);
      return changes ? [{ choice, changes }] : [];
    })
    .sort((left, right) => left.changes.length - right.changes.length);
}
