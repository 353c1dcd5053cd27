import type { Audience } from '../audiences/audience.ts';
import { type Condition, inAudience, not } from '../conditions/condition.ts';
import { never } from './diagrams/diagrams.ts';
import { notProvedWithin, type Work } from './diagrams/work.ts';
import { TooManyValues } from './domains/domain.ts';
import { type ConditionFinding, listed, type Names, sayInstant } from './finding.ts';
import type { Belief, Relying } from './qualified.ts';
import { exampleOf, examplesOf, type Witnesses } from './witnesses.ts';
import type { World } from './world.ts';

/** The relation of an audience to another, where it is worth reporting. */
export interface Relative {
  readonly kind: 'same' | 'contained';
  /** Whether it is only so because of what was stated about the contacts. */
  readonly relies: boolean;
  /** Up to when it is proved, in milliseconds since 1970 UTC; undefined where it is so for good. */
  readonly until: number | undefined;
}

export interface Comparison {
  /** By the id of the other audience. */
  readonly relatives: ReadonlyMap<string, Relative>;
  /** The audiences that it could not be compared with in time. */
  readonly open: ReadonlySet<string>;
}

/** What is needed to compare an audience with others. */
export interface Comparing {
  /** What is taken for granted. */
  readonly belief: Belief;
  readonly worldOf: (belief: Belief, conditions: readonly Condition[]) => World;
  /** They know the audience and the others. */
  readonly witnesses: Witnesses;
  readonly work: Work;
}

/** The part of the time that one comparison may take. */
const perTurn = 0.1;
/** How many audiences are compared in one world: making one costs more than each question in it. */
const together = 8;

const base = { people: undefined, repairs: [] } as const;

/**
 * Which of some audiences everybody in an audience is in, and which have just the same people. One that some known viewer
 * of the audience is not in needs no proof; the others are proved, and each that is neither gives a viewer more to ask the
 * rest about (counterexample-guided; Clarke, Grumberg, Jha, Lu and Veith 2000).
 *
 * @param audience one that has some viewers and not all
 */
export function compare(audience: Audience, others: readonly string[], comparing: Comparing): Comparison {
  const { witnesses, belief, worldOf, work } = comparing;
  const outsideOf = (id: string) =>
    work.within(work.share(perTurn), () =>
      unlessTooMany(() => examplesOf(not(inAudience(id)), worldOf(belief, [inAudience(id)]))),
    ) ?? [];
  const proved = new Map<string, Proved>();
  const open = new Set<string>();
  let left = witnesses.around(audience.id, others, outsideOf);
  while (left.length > 0) {
    const turn = left.slice(0, together);
    prove(audience, turn, comparing, { proved, open });
    left = witnesses.around(audience.id, left.slice(turn.length), outsideOf);
  }
  for (const [id, { kind }] of proved) if (kind === 'neither') proved.delete(id);
  const provedWith = (other: Belief, ids: readonly string[]) => {
    const again = { proved: new Map<string, Proved>(), open: new Set<string>() };
    for (let at = 0; at < ids.length; at += together)
      prove(audience, ids.slice(at, at + together), { ...comparing, belief: other }, again);
    return again.proved;
  };
  const anyway = belief.stated?.length
    ? provedWith({ ...belief, stated: [] }, [...proved.keys()])
    : undefined;
  const limited = [...proved].flatMap(([id, { horizon }]) => (horizon === undefined ? [] : [id]));
  const forGood = provedWith({ ...belief, beyond: true }, limited);
  const relatives = new Map<string, Relative>();
  for (const [id, { kind, horizon }] of proved)
    if (kind !== 'neither')
      relatives.set(id, {
        kind,
        relies: anyway !== undefined && anyway.get(id)?.kind !== kind,
        until: forGood.get(id)?.kind === kind ? undefined : horizon,
      });
  return { relatives, open };
}

interface Proved {
  readonly kind: 'same' | 'contained' | 'neither';
  readonly horizon: number | undefined;
}

/** Proves several pairs in one shared world, or each in a world of its own where the shared one grows too large. */
function prove(
  audience: Audience,
  others: readonly string[],
  { belief, worldOf, witnesses, work }: Comparing,
  into: { readonly proved: Map<string, Proved>; readonly open: Set<string> },
): void {
  const found = work.within(work.share(perTurn), () =>
    unlessTooMany(() => {
      const world = worldOf(belief, [audience.condition, ...others.map(inAudience)]);
      const { diagrams, horizon } = world;
      const mine = world.possibly(world.condition(audience.condition));
      return others.map((id): [string, Proved] => {
        const theirs = world.audience(id);
        const without = diagrams.and(mine, diagrams.not(theirs));
        if (without === never)
          return [id, { kind: world.possibly(theirs) === mine ? 'same' : 'contained', horizon }];
        const example = exampleOf(without, world);
        if (example) witnesses.add(audience.id, example);
        return [id, { kind: 'neither', horizon }];
      });
    }),
  );
  if (found) for (const [id, one] of found) into.proved.set(id, one);
  else if (others.length > 1)
    for (const id of others) prove(audience, [id], { belief, worldOf, witnesses, work }, into);
  else for (const id of others) into.open.add(id);
}

/** Something unless it can't be split exactly; undefined then. */
function unlessTooMany<Result>(work: () => Result): Result | undefined {
  try {
    return work();
  } catch (error) {
    if (error instanceof TooManyValues) return undefined;
    throw error;
  }
}

/** What is found of an audience with a condition, in words. */
export function relativesInWords(
  condition: Condition,
  { relatives, open }: Comparison,
  work: Pick<Work, 'time'>,
  names: Names,
): Relying<ConditionFinding>[] {
  const nameOf = (id: string) => names.audience(id) ?? '';
  const said = [...relatives].flatMap(([id, { kind, relies, until }]): Relying<ConditionFinding>[] => {
    // The condition names that audience itself, so this is no news.
    if (kind === 'contained' && asksFor(condition, id)) return [];
    const sentence =
      kind === 'same' ? `The same people as “${nameOf(id)}”, always.` : `Always part of “${nameOf(id)}”.`;
    const limit = until === undefined ? '' : ` Proved up to ${sayInstant(until, names)}.`;
    return [
      { ...base, kind, severity: kind === 'same' ? 'careful' : 'note', sentence: sentence + limit, relies },
    ];
  });
  if (open.size === 0) return said;
  const sentence = `${notProvedWithin(work)}: how it compares with ${comparedWith([...open].map(nameOf))}.`;
  return [...said, { ...base, kind: 'not-proved', severity: 'note', sentence, relies: false }];
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
