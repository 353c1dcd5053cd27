import { choiceLabel } from '../attributes/attribute.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, type Condition, not, type Test } from '../conditions/condition.ts';
import { partAt, replaceAt, withoutPart } from '../conditions/regroup.ts';
import { type Demand, demandsOf, sayContradiction, smallestContradiction } from './contradiction.ts';
import { always, type Diagram, never } from './diagrams/diagrams.ts';
import { notProvedWithin } from './diagrams/work.ts';
import {
  type ConditionFinding,
  type ConditionRepair,
  either,
  listed,
  type Names,
  quotePart,
  type Severity,
  sayInstant,
  severities,
} from './finding.ts';
import { endOf } from './moments.ts';
import { someViewers } from './search.ts';
import { closedAt, opensAt, overMidnight, testsIn } from './windows.ts';
import type { World } from './world.ts';

/** A repair that has still to be tried. */
interface Candidate {
  readonly label: string;
  readonly condition: Condition;
}

/** A finding before its words and repairs are worked out, which only those that are shown need. */
interface Draft {
  readonly kind: ConditionFinding['kind'];
  readonly severity: Severity;
  /** The part it is about, so that the same finding is known again after an edit. */
  readonly about: string;
  readonly sentence: () => string;
  readonly candidates: () => Candidate[];
}

/** What is needed to look at a condition, and at what it becomes by an edit. */
export interface ConditionContext {
  /** Audiences that it may build on, without those that have an error. */
  readonly others: readonly Audience[];
  readonly names: Names;
  readonly worldOf: (conditions: readonly Condition[]) => World;
}

export interface ConditionFindings {
  readonly findings: readonly ConditionFinding[];
  /** Whether it has some viewers and not all, who could be worked out, so that it is worth comparing with others. */
  readonly isComparable: boolean;
}

/**
 * What is proved about a condition by itself, among all who can be in the world: what is given there (facts about the data, a
 * page's access) may make a part say nothing that would say something elsewhere.
 *
 * @param world made for the condition
 */
export function conditionFindings(
  condition: Condition,
  world: World,
  context: ConditionContext,
): ConditionFindings {
  const proof = new ConditionProof(condition, world, context);
  const drafts = proof.all();
  const findings = drafts.map(
    (draft): ConditionFinding => ({
      kind: draft.kind,
      severity: draft.severity,
      people: undefined,
      sentence: draft.sentence(),
      repairs: world.work.within(world.work.share(0.2), () => tried(draft, drafts, condition, context)) ?? [],
    }),
  );
  return { findings, isComparable: proof.extent.kind === 'worked-out' };
}

/** Who is in a condition: the viewers themselves, or only whether there are any where these are too many to work out. */
type Extent =
  | { readonly kind: 'worked-out'; readonly viewers: Diagram }
  | { readonly kind: 'nobody' | 'everybody' | 'some' | 'unknown' };

function extentOf(condition: Condition, world: World): Extent {
  const { work } = world;
  const viewers = work.within(work.share(0.2), () => world.possibly(world.condition(condition)));
  if (viewers === never) return { kind: 'nobody' };
  if (viewers === world.possible) return { kind: 'everybody' };
  if (viewers !== undefined) return { kind: 'worked-out', viewers };
  const hasSome = (of: Condition) =>
    work.within(work.share(0.1), () => ({ is: someViewers(of, world) !== undefined }))?.is;
  const [some, others] = [hasSome(condition), hasSome(not(condition))];
  if (some === false) return { kind: 'nobody' };
  if (others === false) return { kind: 'everybody' };
  return { kind: some && others ? 'some' : 'unknown' };
}

class ConditionProof {
  readonly extent: Extent;
  private readonly conditionOf: (audience: string) => Condition | undefined;

  constructor(
    private readonly condition: Condition,
    private readonly world: World,
    private readonly context: ConditionContext,
  ) {
    const byId = new Map(context.others.map((audience) => [audience.id, audience.condition]));
    this.conditionOf = (id) => byId.get(id);
    this.extent = extentOf(condition, world);
  }

  all(): Draft[] {
    const { condition, extent } = this;
    const found = [...this.emptyGroups(), ...this.closedWindows(), ...this.pastMidnight()];
    switch (extent.kind) {
      case 'nobody':
        return found.some(({ kind }) => kind === 'over') ? found : [...found, this.neverTrue()];
      case 'everybody':
        return isGroup(condition) && condition.of.length === 0 ? found : [...found, this.alwaysTrue()];
      case 'worked-out':
        return [...found, ...this.coming(extent.viewers), ...this.withoutEffect(), ...this.needsVisit()];
      case 'some':
        return [
          ...found,
          ...this.needsVisit(),
          this.notProved('whether every part of it matters, and how it compares with other audiences'),
        ];
      case 'unknown':
        return [
          ...found,
          ...this.needsVisit(),
          this.notProved('whether anybody can be in it, and what of it matters'),
        ];
    }
  }

  private emptyGroups(): Draft[] {
    const { condition } = this;
    if (isGroup(condition) && condition.of.length === 0)
      return [
        {
          kind: 'empty-group',
          severity: condition.kind === 'all' ? 'note' : 'wrong',
          about: '',
          sentence: () =>
            condition.kind === 'all'
              ? 'There is no test yet, so everybody is in it.'
              : 'Any of nothing is nobody: this group has no test yet.',
          candidates: () => [],
        },
      ];
    for (const [path, part] of partsOf(condition))
      if (isGroup(part) && part.of.length === 0)
        return [
          {
            kind: 'empty-group',
            severity: 'wrong',
            about: path,
            sentence: () =>
              `A group has no test in it: ${part.kind === 'all' ? 'all of nothing is everybody' : 'any of nothing is nobody'}.`,
            candidates: () => this.without(path, 'Remove the empty group'),
          },
        ];
    return [];
  }

  private closedWindows(): Draft[] {
    const { condition, world, context } = this;
    const { names } = context;
    for (const [path, part] of [['', condition] as const, ...partsOf(condition)]) {
      if (part.kind !== 'test') continue;
      const end = endOf(part, names.catalogue);
      if (end > world.instant) continue;
      return [
        {
          kind: 'over',
          severity: 'careful',
          about: path,
          sentence: () =>
            Number.isFinite(end)
              ? `${quotePart(part, names)} is over: it ended on ${sayInstant(end, names)}.`
              : `${quotePart(part, names)} never opens.`,
          candidates: () => this.without(path, 'Remove the window'),
        },
      ];
    }
    return [];
  }

  private coming(own: Diagram): Draft[] {
    const { condition, world, context } = this;
    const { catalogue } = context.names;
    const start = opensAt(() => own, condition, this.conditionOf, world, catalogue);
    if (start === undefined) return [];
    return [
      {
        kind: 'coming',
        severity: 'note',
        about: '',
        sentence: () => `Nobody is in it yet: it starts on ${sayInstant(start, context.names)}.`,
        candidates: () => [],
      },
    ];
  }

  private pastMidnight(): Draft[] {
    const { condition, context } = this;
    const { names } = context;
    for (const [path, part] of [['', condition] as const, ...partsOf(condition)]) {
      if (part.kind !== 'all') continue;
      const found = overMidnight(part.of, names.catalogue);
      if (!found) continue;
      const { time, weekdays, days, nextDays, throughTheNight, earlyAndLate } = found;
      const [from = '', to = ''] = time.values;
      const attribute = names.catalogue.get('moment-weekday');
      const say = (ids: readonly string[]) =>
        either(ids.map((id) => (attribute ? choiceLabel(attribute, id) : id)));
      const [day, next] = [say(days), say(nextDays)];
      const put = (instead: Condition) =>
        replaceAt(condition, path, {
          ...part,
          of: part.of.flatMap((one) => (one === time ? [instead] : one === weekdays ? [] : [one])),
        });
      return [
        {
          kind: 'past-midnight',
          severity: 'careful',
          about: path,
          sentence: () =>
            `${from} to ${to} runs past midnight, but a weekday ends there: before ${to} ${day} is in and ${next} is not.`,
          candidates: () => [
            { label: `Make it from ${day} ${from} to ${next} ${to}`, condition: put(throughTheNight) },
            {
              label: `Keep both ends of ${day}, before ${to} and from ${from}`,
              condition: put(earlyAndLate),
            },
          ],
        },
      ];
    }
    return [];
  }

  private neverTrue(): Draft {
    const { condition, world, context } = this;
    const demands = demandsOf(condition, this.conditionOf);
    const core =
      world.work.within(world.work.share(0.2), () => smallestContradiction(demands, world.possible, world)) ??
      [];
    return {
      kind: 'never-true',
      severity: 'wrong',
      about: '',
      sentence: () => `Nobody can ever be in it: ${sayContradiction(core, context.names)}.`,
      candidates: () => [...this.joinedChoice(core), ...this.withoutDemands(core)],
    };
  }

  private alwaysTrue(): Draft {
    return {
      kind: 'always-true',
      severity: 'careful',
      about: '',
      sentence: () => 'This is always true: everybody is in it.',
      candidates: () => [{ label: 'Remove all of its tests', condition: all() }],
    };
  }

  private withoutEffect(): Draft[] {
    const { context } = this;
    const looked = this.world.work.within(this.world.work.share(0.25), () => ({
      part: partWithoutEffect(this.condition, this.world),
    }));
    if (!looked) return [this.notProved('whether every part of it matters')];
    const found = looked.part;
    if (!found) return [];
    return [
      {
        kind: 'no-effect',
        severity: 'careful',
        about: found.path,
        sentence: () =>
          `${quotePart(found.part, context.names)} changes nothing: the same people are in it without.`,
        candidates: () => this.without(found.path, 'Remove it'),
      },
    ];
  }

  private notProved(what: string): Draft {
    return {
      kind: 'not-proved',
      severity: 'note',
      about: what,
      sentence: () => `${notProvedWithin(this.world.work)}: ${what}.`,
      candidates: () => [],
    };
  }

  private needsVisit(): Draft[] {
    const { names } = this.context;
    const visit = visitAttributesIn(this.condition, this.conditionOf, names);
    if (visit.length === 0) return [];
    return [
      {
        kind: 'needs-visit',
        severity: 'note',
        about: '',
        sentence: () =>
          `Asks for ${listed(visit)}, which nobody knows while an email is read; there it counts as no value.`,
        candidates: () => [],
      },
    ];
  }

  private without(path: string, label: string): Candidate[] {
    return [{ label, condition: withoutPart(this.condition, path) ?? all() }];
  }

  /** Two tests for different values of one choice, as the one test for either that was probably meant. */
  private joinedChoice(core: readonly Demand[]): Candidate[] {
    const [one, two] = core;
    if (core.length !== 2 || one?.through.length !== 0 || two?.through.length !== 0) return [];
    const joined = joined2(one.part, two.part);
    const shorter = joined && withoutPart(replaceAt(this.condition, one.path, joined), two.path);
    return joined && shorter
      ? [{ label: `Make it ${quotePart(joined, this.context.names)}`, condition: shorter }]
      : [];
  }

  /** The condition without each of the parts that contradict each other. */
  private withoutDemands(core: readonly Demand[]): Candidate[] {
    const paths = [...new Set(core.map(({ path }) => path))];
    return paths.reverse().flatMap((path) => {
      const part = partAt(this.condition, path);
      return part && path !== '' ? this.without(path, `Remove ${quotePart(part, this.context.names)}`) : [];
    });
  }
}

function joined2(one: Condition, two: Condition): Test | undefined {
  if (one.kind !== 'test' || two.kind !== 'test' || one.attribute !== two.attribute) return undefined;
  if (one.op !== 'is-one-of' || two.op !== 'is-one-of') return undefined;
  return { ...one, values: [...new Set([...one.values, ...two.values])] };
}

/**
 * The repairs of a finding that are ones: it is gone after them, there are fewer findings as bad as it, and none worse. Each
 * says who comes in and who goes out, or that nobody does.
 */
function tried(
  draft: Draft,
  before: readonly Draft[],
  condition: Condition,
  context: ConditionContext,
): ConditionRepair[] {
  const asBad = (drafts: readonly Draft[]) =>
    drafts.filter(({ severity }) => severities.indexOf(severity) <= severities.indexOf(draft.severity))
      .length;
  const worse = (drafts: readonly Draft[]) =>
    drafts.filter(({ severity }) => severities.indexOf(severity) < severities.indexOf(draft.severity)).length;
  return draft.candidates().flatMap((candidate): ConditionRepair[] => {
    const world = context.worldOf([condition, candidate.condition]);
    const after = new ConditionProof(candidate.condition, world, { ...context }).all();
    const isThere = after.some(({ kind, about }) => kind === draft.kind && about === draft.about);
    if (isThere || asBad(after) >= asBad(before) || worse(after) > worse(before)) return [];
    const { diagrams } = world;
    const [old, next] = [condition, candidate.condition].map((one) => world.possibly(world.condition(one)));
    if (old === undefined || next === undefined) return [];
    return [
      {
        ...candidate,
        joins: diagrams.implies(next, old) ? null : all(candidate.condition, not(condition)),
        leaves: diagrams.implies(old, next) ? null : all(condition, not(candidate.condition)),
      },
    ];
  });
}

type Group = Extract<Condition, { kind: 'all' | 'any' }>;

function isGroup(condition: Condition): condition is Group {
  return condition.kind === 'all' || condition.kind === 'any';
}

/** Labels of the visit's attributes that a condition asks for, through other audiences too. */
export function visitAttributesIn(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  { catalogue }: Names,
): string[] {
  const labels = new Set<string>();
  for (const { attribute: id } of testsIn(condition, conditionOf)) {
    const attribute = catalogue.get(id);
    if (attribute?.source === 'visit') labels.add(attribute.label);
  }
  return [...labels];
}

/** The parts of a condition's groups, of groups within too, each with its path; see regroup.ts. */
function* partsOf(condition: Condition, path = ''): Generator<[path: string, part: Condition]> {
  const at = (step: string) => (path === '' ? step : `${path}.${step}`);
  if (condition.kind === 'not') yield* partsOf(condition.of, at('of'));
  if (!isGroup(condition)) return;
  for (const [index, part] of condition.of.entries()) {
    yield [at(`of.${index}`), part];
    yield* partsOf(part, at(`of.${index}`));
  }
}

/**
 * The first part of a group that may be left out without anybody coming in or going out. A part matters to the viewers whose
 * membership hangs on its group and who are not settled by the other parts of it: those who meet all others of an "all of",
 * or none of an "any of". It is without effect where none of these fails it, or meets it.
 */
function partWithoutEffect(
  condition: Condition,
  world: World,
): { path: string; part: Condition } | undefined {
  const { diagrams } = world;
  /** @param hang the viewers whose membership hangs on this part */
  const search = (
    part: Condition,
    path: string,
    hang: Diagram,
  ): { path: string; part: Condition } | undefined => {
    const at = (step: string) => (path === '' ? step : `${path}.${step}`);
    if (part.kind === 'not') return search(part.of, at('of'), hang);
    if (!isGroup(part)) return undefined;
    // What leaves a viewer unsettled, for each part: meeting it in an "all of", not meeting it in an "any of".
    const unsettled = part.of.map((inner) => {
      const own = world.condition(inner);
      return part.kind === 'all' ? own : diagrams.not(own);
    });
    const after: Diagram[] = [always];
    for (const own of [...unsettled].reverse()) after.unshift(diagrams.and(own, after[0] ?? always));
    let before = hang;
    for (const [index, inner] of part.of.entries()) {
      const others = diagrams.and(before, after[index + 1] ?? always);
      const own = unsettled[index] ?? always;
      const isEmpty = isGroup(inner) && inner.of.length === 0;
      if (part.of.length > 1 && !isEmpty && diagrams.implies(others, own))
        return { path: at(`of.${index}`), part: inner };
      const found = search(inner, at(`of.${index}`), others);
      if (found) return found;
      before = diagrams.and(before, own);
    }
    return undefined;
  };
  return search(condition, '', world.possible);
}

/** Why nobody who can be in a world is in an audience, as a clause, and when it was over. */
export function whyNobody(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  among: Diagram,
  world: World,
  names: Names,
): { closed: number | undefined; sentence: string | undefined } {
  const closed = closedAt(condition, conditionOf, world, names.catalogue);
  if (closed !== undefined) return { closed, sentence: undefined };
  const core = smallestContradiction(demandsOf(condition, conditionOf), among, world);
  return { closed: undefined, sentence: core && sayContradiction(core, names) };
}
