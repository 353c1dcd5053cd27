import { dequal } from 'dequal';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import type { StatedFact } from '../audiences/fact.ts';
import type { Condition } from '../conditions/condition.ts';
import { Membership } from '../deciding/membership.ts';
import { conditionFindings } from './condition-findings.ts';
import { type Limit, notProvedWithin, Work } from './diagrams/work.ts';
import type { ConditionFinding, Names } from './finding.ts';
import { type Comparing, compare, relativesInWords } from './other-audiences.ts';
import { type Belief, orRefused, qualified, type Relying } from './qualified.ts';
import { type Drafts, surroundings } from './surroundings.ts';
import { type Example, examplesOf, Witnesses } from './witnesses.ts';
import { World } from './world.ts';

export interface ConditionAnalysis {
  readonly findings: readonly Relying<ConditionFinding>[];
  /** Why nothing could be proved; undefined when it could. */
  readonly refused: string | undefined;
}

/** Audiences among which one is looked at. */
export interface Study {
  readonly catalogue: Catalogue;
  readonly audiences: readonly Audience[];
  readonly membership: Membership;
  readonly facts: readonly StatedFact[];
  readonly names: Names;
  /** Now, in milliseconds since 1970 UTC. */
  readonly instant: number;
}

/** Everything that is proved about a condition being written; `editing` is the audience it belongs to, if stored. */
export function analyseCondition(
  drafts: Drafts,
  condition: Condition,
  editing: string | null,
  instant: number,
  limit: Limit = {},
): ConditionAnalysis {
  const around = surroundings(drafts);
  const isStored = drafts.audiences.some((one) => one.id === editing && dequal(one.condition, condition));
  const stored = drafts.audiences.filter((audience) => audience.id !== editing);
  const own = { id: editing ?? '\0new', name: '', description: '', condition };
  const audiences = isStored ? drafts.audiences : [...stored, own];
  const membership = isStored ? around.membership : new Membership(around.catalogue, audiences);
  if (membership.problems.has(own.id)) return { findings: [], refused: undefined };
  const study = { ...around, audiences, membership, instant };
  const work = new Work(limit);
  const { findings, isComparable, examples, refused } = byItself(own, study, work);
  if (!isComparable) return { findings, refused };
  const witnesses = new Witnesses(study.catalogue, study.facts);
  const sound = audiences.filter(({ id }) => !membership.problems.has(id)).map(({ id }) => id);
  witnesses.follow(membership, new Map(sound.map((id) => [id, id])));
  witnesses.begin(own.id, examples);
  const others = sound.filter((id) => id !== own.id);
  const comparison = compare(own, others, comparingIn(study, witnesses, work));
  return { findings: [...findings, ...relativesInWords(condition, comparison, work, study.names)], refused };
}

/** The findings of one audience on its own, and whether comparing it with others can add any. */
export interface ByItself extends ConditionAnalysis {
  readonly isComparable: boolean;
  /** Some who are in it, where it is worth comparing. */
  readonly examples: readonly Example[];
}

/** The findings of a valid audience that do not involve other audiences. */
export function byItself(audience: Audience, study: Study, work: Work): ByItself {
  const { condition, id } = audience;
  const { membership, facts, names } = study;
  const others = study.audiences.filter((other) => other.id !== id && !membership.problems.has(other.id));
  const worldFor = worldIn(study, work);
  const find = (belief: Belief, world: World) =>
    conditionFindings(condition, world, {
      others,
      names,
      worldOf: (conditions) => worldFor(belief, conditions),
    });
  return orRefused<Omit<ByItself, 'refused'>>(
    { findings: [], isComparable: false, examples: [] },
    work,
    () => {
      const belief = { stated: facts, beyond: false };
      const found = work.within({}, () => {
        const world = worldFor(belief, [condition]);
        return { world, ...find(belief, world) };
      });
      if (!found) return { findings: [notProved(work)], isComparable: false, examples: [] };
      const keyOf = ({ kind, sentence }: ConditionFinding) => `${kind} ${sentence}`;
      const keysIn = (other: Belief) => find(other, worldFor(other, [condition])).findings.map(keyOf);
      const { world, findings, isComparable } = found;
      return {
        findings: qualified(findings, { world, keysIn, keyOf, facts, names }),
        isComparable,
        examples: isComparable ? examplesOf(condition, world) : [],
      };
    },
  );
}

/** What an audience is compared with others by. */
export function comparingIn(study: Study, witnesses: Witnesses, work: Work): Comparing {
  return { belief: { stated: study.facts, beyond: false }, worldOf: worldIn(study, work), witnesses, work };
}

function worldIn(study: Study, work: Work) {
  return ({ stated, beyond }: Belief, conditions: readonly Condition[]) =>
    new World({ ...study, channel: 'page', hasItem: true, used: [], conditions, stated, beyond, work });
}

function notProved(work: Work): Relying<ConditionFinding> {
  return {
    kind: 'not-proved',
    severity: 'note',
    sentence: `${notProvedWithin(work)}: whether anybody can be in it, and what of it matters.`,
    people: undefined,
    repairs: [],
    relies: false,
  };
}
