import { formatValue } from '../attributes/format.ts';
import type { Audience } from '../audiences/audience.ts';
import { type Condition, leavesOf, type Test } from '../conditions/condition.ts';
import { never } from './diagrams.ts';
import { type ConditionFinding, type Names, sayPart } from './finding.ts';
import { endOf } from './moments.ts';
import type { World } from './world.ts';

/** Parts that are tried one by one, or two by two; a condition of more is beyond what anybody reads. */
const mostTried = 150;

/**
 * What is proved about a condition by itself, and against other audiences, among all who can be in the world: what is
 * given there (facts about the data, a page's access) may make a part say nothing that would say something elsewhere.
 *
 * @param world made for the condition, its parts and the other audiences
 */
export function conditionFindings(
  condition: Condition,
  others: readonly Audience[],
  world: World,
  names: Names,
): ConditionFinding[] {
  const { diagrams } = world;
  const of = (part: Condition) => world.possibly(world.condition(part));
  const own = of(condition);
  const found: ConditionFinding[] = [
    ...emptyGroups(condition),
    ...windowsThatAreOver(condition, world, names),
  ];
  const isOver = found.some(({ kind }) => kind === 'over');
  if (own === never) return isOver ? found : [...found, neverTrue(condition, world, names)];
  if (own === world.possible) {
    if (isGroup(condition) && condition.of.length === 0) return found;
    return [
      ...found,
      {
        kind: 'always-true',
        severity: 'careful',
        sentence: 'This is always true: everybody is in it.',
        people: undefined,
        repairs: [{ label: 'Take all of it out', condition: { kind: 'all', of: [] } }],
      },
    ];
  }
  let tried = 0;
  for (const { part, without } of withoutEachPart(condition)) {
    if (isGroup(part) && part.of.length === 0) continue;
    if (++tried > mostTried) break;
    if (of(without) !== own) continue;
    found.push({
      kind: 'no-effect',
      severity: 'careful',
      sentence: `“${sayPart(part, names)}” changes nothing: the same people are in it without.`,
      people: undefined,
      repairs: [{ label: 'Take it out', condition: without }],
    });
    // Taking two such parts out at once might change something; one at a time never does.
    break;
  }
  const visit = [...new Set(visitAttributesIn(condition, names, others))];
  if (visit.length > 0)
    found.push({
      kind: 'needs-visit',
      severity: 'note',
      sentence: `Asks for ${new Intl.ListFormat('en-GB').format(visit)}, which nobody knows while mail is read; there it counts as no value.`,
      people: undefined,
      repairs: [],
    });
  for (const other of others) {
    const theirs = world.possibly(world.audience(other.id));
    if (theirs === never) continue;
    if (theirs === own)
      found.push({
        kind: 'same',
        severity: 'careful',
        sentence: `The same people as “${other.name}”, for every possible person.`,
        people: undefined,
        repairs: [],
      });
    // What the condition says in so many words needs no telling.
    else if (!asksFor(condition, other.id) && diagrams.and(own, diagrams.not(theirs)) === never)
      found.push({
        kind: 'contained',
        severity: 'note',
        sentence: `Everybody in it is in “${other.name}” too, for every possible person.`,
        people: undefined,
        repairs: [],
      });
  }
  return found;
}

/** Whether a condition says itself that everybody in it is in an audience. */
function asksFor(condition: Condition, audience: string): boolean {
  if (condition.kind === 'all') return condition.of.some((part) => asksFor(part, audience));
  return condition.kind === 'audience' && condition.audience === audience;
}

type Group = Extract<Condition, { kind: 'all' | 'any' }>;

function isGroup(condition: Condition): condition is Group {
  return condition.kind === 'all' || condition.kind === 'any';
}

/** Labels of the visit's attributes that a condition asks for, through other audiences too. */
export function visitAttributesIn(
  condition: Condition,
  { catalogue }: Names,
  audiences: readonly Audience[],
): string[] {
  const byId = new Map(audiences.map((audience) => [audience.id, audience.condition]));
  const seen = new Set<string>();
  const walk = (part: Condition): string[] =>
    [...leavesOf(part)].flatMap((leaf) => {
      if (leaf.kind === 'test') {
        const attribute = catalogue.get(leaf.attribute);
        return attribute?.source === 'visit' ? [attribute.label] : [];
      }
      const inner = byId.get(leaf.audience);
      if (!inner || seen.has(leaf.audience)) return [];
      seen.add(leaf.audience);
      return walk(inner);
    });
  return walk(condition);
}

function emptyGroups(condition: Condition): ConditionFinding[] {
  if (isGroup(condition) && condition.of.length === 0)
    return [
      {
        kind: 'empty-group',
        severity: condition.kind === 'all' ? 'careful' : 'wrong',
        sentence:
          condition.kind === 'all'
            ? 'Nothing is asked yet, so everybody is in it.'
            : 'Any of nothing is nobody: this group has no test yet.',
        people: undefined,
        repairs:
          condition.kind === 'any'
            ? [{ label: 'Make it everybody', condition: { kind: 'all', of: [] } }]
            : [],
      },
    ];
  for (const { part, without } of withoutEachPart(condition, true))
    if (isGroup(part) && part.of.length === 0)
      return [
        {
          kind: 'empty-group',
          severity: 'wrong',
          sentence: `A group has no test in it: ${part.kind === 'all' ? 'all of nothing is everybody' : 'any of nothing is nobody'}.`,
          people: undefined,
          repairs: [{ label: 'Take the empty group out', condition: without }],
        },
      ];
  return [];
}

function windowsThatAreOver(condition: Condition, world: World, names: Names): ConditionFinding[] {
  for (const { part, without } of withoutEachPart({ kind: 'all', of: [condition] }, true)) {
    if (part.kind !== 'test') continue;
    const end = endOf(part, names.catalogue);
    if (end > world.instant) continue;
    return [
      {
        kind: 'over',
        severity: 'careful',
        sentence: `“${sayPart(part, names)}” is over: since ${sayInstant(end, names)} it holds no more.`,
        people: undefined,
        repairs: [{ label: 'Take the window out', condition: unwrapped(without) }],
      },
    ];
  }
  return [];
}

function unwrapped(condition: Condition): Condition {
  const [only] = isGroup(condition) ? condition.of : [];
  return isGroup(condition) && condition.of.length === 1 && only && isGroup(only) ? only : condition;
}

export function sayInstant(instant: number, { catalogue }: Names): string {
  const moment = catalogue.get('moment');
  return moment ? formatValue(moment, new Date(instant).toISOString(), 'en-GB', catalogue.zone) : '';
}

/** Why a condition can never be true: the part that can't be, or two that exclude each other, in words. */
export function whyNever(
  condition: Condition,
  world: World,
  names: Names,
): { sentence: string; alone?: Condition; pair?: [Condition, Condition] } {
  const parts = condition.kind === 'all' ? condition.of.slice(0, mostTried) : [];
  const holds = (...some: Condition[]) =>
    world.possibly(world.condition({ kind: 'all', of: some })) !== never;
  const alone = parts.find((part) => !holds(part));
  if (alone) return { sentence: `“${sayPart(alone, names)}” can never be true`, alone };
  for (const [index, one] of parts.entries())
    for (const two of parts.slice(index + 1))
      if (!holds(one, two))
        return {
          sentence: `“${sayPart(one, names)}” and “${sayPart(two, names)}” exclude each other`,
          pair: [one, two],
        };
  return { sentence: 'its parts together exclude everybody' };
}

function neverTrue(condition: Condition, world: World, names: Names): ConditionFinding {
  const parts = condition.kind === 'all' ? condition.of : [];
  const without = (part: Condition): Condition => ({
    kind: 'all',
    of: parts.filter((other) => other !== part),
  });
  const { sentence, alone, pair } = whyNever(condition, world, names);
  const base = {
    kind: 'never-true',
    severity: 'wrong',
    sentence: `Nobody can ever be in it: ${sentence}.`,
    people: undefined,
  } as const;
  if (alone) return { ...base, repairs: [{ label: 'Take it out', condition: without(alone) }] };
  if (!pair) return { ...base, repairs: [] };
  const [one, two] = pair;
  const joined = joinedChoice(one, two);
  const together: Condition | undefined = joined && {
    kind: 'all',
    of: parts.flatMap((part) => (part === one ? [joined] : part === two ? [] : [part])),
  };
  return {
    ...base,
    repairs: [
      ...(joined && together ? [{ label: `Make it “${sayPart(joined, names)}”`, condition: together }] : []),
      { label: `Take “${sayPart(two, names)}” out`, condition: without(two) },
    ],
  };
}

/** Two tests for different values of one choice, as the one test for either that was probably meant. */
function joinedChoice(one: Condition, two: Condition): Test | undefined {
  if (one.kind !== 'test' || two.kind !== 'test' || one.attribute !== two.attribute) return undefined;
  if (one.op !== 'is-one-of' || two.op !== 'is-one-of') return undefined;
  return { ...one, values: [...new Set([...one.values, ...two.values])] };
}

/**
 * Each part of the condition's groups, with the condition as it is without that part.
 *
 * @param last also the only part of a group, which leaves an empty one
 */
function* withoutEachPart(
  condition: Condition,
  last = false,
): Generator<{ part: Condition; without: Condition }> {
  if (condition.kind === 'not') {
    for (const { part, without } of withoutEachPart(condition.of, last))
      yield { part, without: { kind: 'not', of: without } };
    return;
  }
  if (!isGroup(condition)) return;
  for (const [index, part] of condition.of.entries()) {
    if (last || condition.of.length > 1)
      yield { part, without: { ...condition, of: condition.of.filter((_, at) => at !== index) } };
    for (const inner of withoutEachPart(part, last))
      yield {
        part: inner.part,
        without: { ...condition, of: condition.of.map((old, at) => (at === index ? inner.without : old)) },
      };
  }
}
