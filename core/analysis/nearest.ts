import type { Facts } from '../attributes/viewer.ts';
import { everyoneElse } from '../deciding/decide.ts';
import type { Content, Slot } from '../documents/document.ts';
import { always, type Diagram, isOutcome, never } from './diagrams/diagrams.ts';
import { slotDiagrams } from './faces.ts';
import type { Trait, World } from './world.ts';

/** One step of a shortest path: the cell that is taken at a level, and what follows. */
interface Step {
  readonly cost: number;
  readonly level: number;
  readonly cell: number;
  readonly next: Diagram;
  /** Whether the attribute of the level has become another by then. */
  readonly changed: boolean;
}

/**
 * The fewest things that would have to be otherwise about a viewer for a diagram to hold: an empty list where it holds
 * already, undefined where nothing could make it hold. Attributes that a change does not name stay as they are. A shortest
 * path through the diagram, where an attribute costs one however many of its variables take another cell than the viewer's.
 */
export function nearest(diagram: Diagram, facts: Facts, world: World): Trait[] | undefined {
  const { diagrams } = world;
  const place = world.placeOf(facts);
  const known = new Map<string, Step | undefined>();
  const isFellow = (one: number, two: number) => world.fellowsOf(one).includes(two);
  const cheapest = (node: Diagram, above: number, changedAbove: boolean): number => {
    if (isOutcome(node)) return node === always ? 0 : Number.POSITIVE_INFINITY;
    const level = diagrams.levelOf(node);
    const already = changedAbove && isFellow(above, level);
    const key = `${node} ${already}`;
    const found = known.get(key);
    if (found) return found.cost;
    const own = place.get(level) ?? 0;
    let best: Step = { cost: Number.POSITIVE_INFINITY, level, cell: own, next: never, changed: already };
    const take = (cell: number, next: Diagram) => {
      const changed = already || cell !== own;
      const cost = cheapest(next, level, changed) + (cell !== own && !already ? 1 : 0);
      if (cost < best.cost) best = { cost, level, cell, next, changed };
    };
    // The viewer's own cell first, so that nothing changes without need.
    take(own, diagrams.at(node, level, own));
    let cell = 0;
    for (const { end, next } of diagrams.runsOf(node)) {
      take(cell, next);
      cell = end;
    }
    known.set(key, best);
    return best.cost;
  };
  const root = world.possibly(diagram);
  if (cheapest(root, -1, false) === Number.POSITIVE_INFINITY) return undefined;
  const cells = new Map(place);
  const levels: number[] = [];
  let [node, above, changed] = [root, -1, false];
  while (!isOutcome(node)) {
    const level = diagrams.levelOf(node);
    const step: Step | undefined = known.get(`${node} ${changed && isFellow(above, level)}`);
    if (!step) break;
    if (step.cell !== (place.get(level) ?? 0)) {
      cells.set(level, step.cell);
      levels.push(level);
    }
    [node, above, changed] = [step.next, level, step.changed];
  }
  return world.traits(levels, cells);
}

/** For each choice of a slot that a viewer does not get, the fewest changes that would lead to it; nearest first. */
export function alternativesOf(
  slot: Slot,
  current: number,
  facts: Facts,
  world: World,
): { choice: number; changes: Trait[] }[] {
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
