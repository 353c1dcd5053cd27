import type { Condition } from '../conditions/condition.ts';
import { always, type Diagram, never } from './diagrams/diagrams.ts';
import type { World } from './world.ts';

/**
 * Some viewers for whom a condition holds, found by choosing one way of each "any of" after another and going back where
 * they exclude each other (backtracking; Davis, Logemann and Loveland 1962). A condition whose diagram would be too large to
 * build is mostly answered at once this way. Undefined where there is nobody; throws OutOfWork where that takes too long.
 */
export function someViewers(condition: Condition, world: World): Diagram | undefined {
  const { diagrams } = world;
  const search = (found: Diagram, open: readonly Part[], at: number): Diagram | undefined => {
    world.work.spend(4);
    if (found === never) return undefined;
    const part = open[at];
    if (!part) return found;
    const { of, negated } = part;
    if (of.kind === 'not') return search(found, [...open.slice(at + 1), { of: of.of, negated: !negated }], 0);
    if (of.kind === 'audience') {
      const inner = world.conditionOf(of.audience);
      return search(found, [...open.slice(at + 1), { of: inner, negated }], 0);
    }
    if (of.kind === 'test') {
      const own = world.condition(of);
      return search(diagrams.and(found, negated ? diagrams.not(own) : own), open, at + 1);
    }
    const parts = of.of.map((inner): Part => ({ of: inner, negated }));
    if (of.kind === (negated ? 'any' : 'all')) return search(found, [...parts, ...open.slice(at + 1)], 0);
    // What holds already for all that were found costs nothing to choose.
    const free = parts.find((one) => impliedBy(found, one, world));
    if (free) return search(found, open, at + 1);
    for (const one of parts) {
      const chosen = search(found, [one, ...open.slice(at + 1)], 0);
      if (chosen !== undefined) return chosen;
    }
    return undefined;
  };
  return search(world.possible, [{ of: condition, negated: false }], 0);
}

interface Part {
  readonly of: Condition;
  readonly negated: boolean;
}

/** Whether a single test holds for all of some viewers. */
function impliedBy(found: Diagram, { of, negated }: Part, world: World): boolean {
  if (of.kind !== 'test') return false;
  const own = world.condition(of);
  const holds = negated ? world.diagrams.not(own) : own;
  return holds === always || world.diagrams.implies(found, holds);
}
