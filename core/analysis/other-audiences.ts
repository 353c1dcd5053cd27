import { factsOf, type Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { keeping, type StatedFact } from '../audiences/fact.ts';
import { builtinFacts } from '../conditions/builtin-facts.ts';
import { type Condition, inAudience } from '../conditions/condition.ts';
import { compile, type Predicate } from '../conditions/evaluate.ts';
import type { Membership } from '../deciding/membership.ts';
import { type Diagram, never } from './diagrams/diagrams.ts';
import { notProvedWithin } from './diagrams/work.ts';
import { type ConditionFinding, listed, type Names } from './finding.ts';
import type { World } from './world.ts';

/** What is needed to compare a condition with other audiences. */
export interface Comparing {
  /** Audiences other than the one that is being written, without those that have an error. */
  readonly others: readonly Audience[];
  readonly membership: Membership;
  readonly stated: readonly StatedFact[];
  readonly names: Names;
  readonly worldOf: (conditions: readonly Condition[]) => World;
}

/** The part of the time that one comparison may take. */
const perPair = 0.1;

const base = { people: undefined, repairs: [] } as const;

/**
 * Which audiences everybody in a condition is in, and which have just the same people. An audience that some viewer in the
 * condition is not in needs no proof; the others are proved pair by pair, where each pair that is neither gives a viewer
 * more to ask the rest about (counterexample-guided; Clarke, Grumberg, Jha, Lu and Veith 2000).
 *
 * @param own the viewers in the condition, some and not all, in the world that was made for it
 */
export function againstOthers(
  condition: Condition,
  own: Diagram,
  world: World,
  comparing: Comparing,
): ConditionFinding[] {
  const { others, membership, names, worldOf } = comparing;
  const isPossible = possibleAmong(comparing);
  const outside = new Set<string>();
  const learn = (from: World, who: Diagram) => {
    const cells = from.diagrams.example(who);
    const viewer = cells && from.viewer(cells);
    if (!viewer || !isPossible(viewer)) return;
    membership.lookAs(factsOf(names.catalogue, viewer));
    for (const { id } of others) if (!membership.containsViewer(id)) outside.add(id);
  };
  learn(world, own);
  const found: ConditionFinding[] = [];
  const open: string[] = [];
  for (const other of others) {
    if (outside.has(other.id)) continue;
    const relation = world.work.within(world.work.share(perPair), () => {
      const both = worldOf([condition, inAudience(other.id)]);
      const [mine, theirs] = [both.condition(condition), both.audience(other.id)].map((one) =>
        both.possibly(one),
      );
      if (mine === undefined || theirs === undefined) return 'neither';
      if (mine === theirs) return 'same';
      const without = both.diagrams.and(mine, both.diagrams.not(theirs));
      if (without === never) return 'inside';
      learn(both, without);
      return 'neither';
    });
    if (relation === undefined) open.push(other.name);
    else if (relation === 'same')
      found.push({
        ...base,
        kind: 'same',
        severity: 'careful',
        sentence: `The same people as “${other.name}”, always.`,
      });
    // What the condition says in so many words needs no telling.
    else if (relation === 'inside' && !asksFor(condition, other.id))
      found.push({
        ...base,
        kind: 'contained',
        severity: 'note',
        sentence: `Always part of “${other.name}”.`,
      });
  }
  return open.length === 0
    ? found
    : [
        ...found,
        {
          ...base,
          kind: 'not-proved',
          severity: 'note',
          sentence: `${notProvedWithin(world.work)}: how it compares with ${comparedWith(open)}.`,
        },
      ];
}

/**
 * Whether a viewer who was made up for some attributes keeps to what holds for all of them: a statement may ask for a value
 * of one that the condition does not mention.
 */
function possibleAmong({ stated, names: { catalogue } }: Comparing): (viewer: Viewer) => boolean {
  const ofContacts = stated.map((fact) => compile(keeping(fact), catalogue));
  const ofAll = builtinFacts.map((fact) => compile(fact, catalogue));
  return (viewer) => {
    const facts = factsOf(catalogue, viewer);
    const keeps = (holds: Predicate) => holds(facts);
    return ofAll.every(keeps) && (viewer.contact === null || ofContacts.every(keeps));
  };
}

/** The audiences that something was not compared with, by name where they are few. */
export function comparedWith(names: readonly string[]): string {
  return names.length > 3 ? `${names.length} other audiences` : listed(names.map((name) => `“${name}”`));
}

/** Whether a condition says itself that everybody in it is in an audience. */
function asksFor(condition: Condition, audience: string): boolean {
  if (condition.kind === 'all') return condition.of.some((part) => asksFor(part, audience));
  return condition.kind === 'audience' && condition.audience === audience;
}
