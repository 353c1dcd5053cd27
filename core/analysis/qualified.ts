import type { StatedFact } from '../audiences/fact.ts';
import { type Limit, notProvedWithin, OutOfWork } from './diagrams/work.ts';
import { TooManyValues } from './domains/domain.ts';
import { type Names, sayInstant } from './finding.ts';
import type { World, WorldOf } from './world.ts';

/** A finding, and whether it is only so because of what was stated about the contacts. */
export type Relying<Finding> = Finding & { readonly relies: boolean };

/** What is taken for granted: what was stated about the contacts, and that nothing new comes after the horizon. */
export type Belief = Required<Pick<WorldOf, 'stated' | 'beyond'>>;

export interface Question<Finding> {
  readonly world: World;
  /** What is found with another belief, each as its key. */
  readonly keysIn: (belief: Belief) => string[];
  readonly keyOf: (finding: Finding) => string;
  readonly facts: readonly StatedFact[];
  readonly names: Names;
}

/**
 * Findings marked where they would not be found without what was stated about the contacts, and with the date up to which
 * they are proved where windows recur in ways that may bring something new later.
 */
export function qualified<Finding extends { kind: string; sentence: string }>(
  found: readonly Finding[],
  { world, keysIn, keyOf, facts, names }: Question<Finding>,
): Relying<Finding>[] {
  const { work, horizon } = world;
  const foundIn = (belief: Belief): ReadonlySet<string> | undefined =>
    found.length === 0 ? new Set() : work.within({}, () => new Set(keysIn(belief)));
  const anyway = facts.length > 0 ? foundIn({ stated: [], beyond: false }) : undefined;
  const forGood = horizon === undefined ? undefined : (foundIn({ stated: facts, beyond: true }) ?? new Set());
  return found.map((one) => {
    const isForGood = forGood === undefined || forGood.has(keyOf(one)) || one.kind === 'not-proved';
    const until = isForGood || horizon === undefined ? '' : ` Proved up to ${sayInstant(horizon, names)}.`;
    return {
      ...one,
      sentence: one.sentence + until,
      relies: anyway !== undefined && !anyway.has(keyOf(one)),
    };
  });
}

/** What is found, or why it was refused. */
export function orRefused<Found>(
  nothing: Found,
  limit: Limit,
  find: () => Found,
): Found & { refused: string | undefined } {
  try {
    return { ...find(), refused: undefined };
  } catch (error) {
    if (error instanceof TooManyValues) return { ...nothing, refused: error.message };
    if (error instanceof OutOfWork) return { ...nothing, refused: notProvedWithin(limit) };
    throw error;
  }
}
