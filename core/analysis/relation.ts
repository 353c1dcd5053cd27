import { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import { soundFacts } from '../audiences/fact-problems.ts';
import { Membership } from '../deciding/membership.ts';
import type { Snapshot } from '../deciding/release.ts';
import { never } from './diagrams/diagrams.ts';
import { type Limit, OutOfWork, Work } from './diagrams/work.ts';
import { TooManyValues } from './domains/domain.ts';
import { World } from './world.ts';

/** How two audiences lie to each other, for every possible person: the first seen from the second. */
export type Relation = 'same' | 'inside' | 'around' | 'apart' | 'overlapping';

/** The relation of two audiences by proof; undefined where it can't be proved, or where one of them has an error. */
export function relationOf(
  {
    settings,
    attributes,
    audiences,
    facts,
  }: Pick<Snapshot, 'settings' | 'attributes' | 'facts'> & { audiences: readonly Audience[] },
  one: string,
  two: string,
  instant: number,
  limit: Limit = {},
): Relation | undefined {
  const catalogue = new Catalogue(attributes, settings.zone);
  const membership = new Membership(catalogue, audiences);
  if (membership.indexOf(one) < 0 || membership.indexOf(two) < 0) return undefined;
  try {
    const world = new World({
      catalogue,
      membership,
      audiences,
      used: [one, two],
      channel: 'page',
      instant,
      stated: soundFacts(facts, catalogue),
      hasItem: true,
      work: new Work(limit),
    });
    const { diagrams } = world;
    const [left, right] = [world.possibly(world.audience(one)), world.possibly(world.audience(two))];
    if (left === right) return 'same';
    if (diagrams.and(left, right) === never) return 'apart';
    if (diagrams.and(left, diagrams.not(right)) === never) return 'inside';
    return diagrams.and(right, diagrams.not(left)) === never ? 'around' : 'overlapping';
  } catch (error) {
    if (error instanceof TooManyValues || error instanceof OutOfWork) return undefined;
    throw error;
  }
}
