import type { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import type { Condition } from '../conditions/condition.ts';
import { say } from '../conditions/words.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { type Content, type Slot, slotsOf, variantLetter } from '../documents/document.ts';
import { moveVariant, removeVariant, updateSlot } from '../documents/edit.ts';
import { never } from './diagrams.ts';
import { slotDiagrams } from './faces.ts';
import type { World } from './world.ts';

/** Something proved about a document, for every possible viewer. */
export interface DocumentFinding {
  kind: 'never-true' | 'needs-sign-in' | 'shadowed' | 'gap' | 'everyone-else-unreached' | 'order';
  severity: 'wrong' | 'careful';
  slot: string;
  /** The variant it is about; null where it is about everyone else or the whole slot. */
  variant: string | null;
  sentence: string;
  repairs: { label: string; content: Content }[];
}

/** Something proved about a condition, for every possible person. */
export interface ConditionFinding {
  kind: 'never-true' | 'always-true' | 'no-effect' | 'same' | 'contained';
  /** A note says what is so, without anything to mend. */
  severity: 'wrong' | 'careful' | 'note';
  sentence: string;
  repairs: { label: string; condition: Condition }[];
}

export interface Names {
  readonly catalogue: Catalogue;
  readonly audience: (id: string) => string | undefined;
}

/** What is proved about the slots of a document. */
export function documentFindings(content: Content, world: World, names: Names): DocumentFinding[] {
  const diagrams = slotDiagrams(content, world);
  const findings = slotsOf(content).flatMap((slot, index) =>
    slotFindings(content, slot, diagrams[index] ?? never, world, names),
  );
  return [...findings, ...orderFindings(content, world, names)];
}

function slotFindings(
  content: Content,
  slot: Slot,
  diagram: number,
  world: World,
  names: Names,
): DocumentFinding[] {
  const { diagrams } = world;
  const found: DocumentFinding[] = [];
  const nameOf = (id: string) => names.audience(id) ?? 'a deleted audience';
  const shown = (choice: number) => world.possibly(diagrams.where(diagram, choice));
  for (const [index, variant] of slot.variants.entries()) {
    if (shown(index) !== never) continue;
    const own = world.possibly(world.audience(variant.audience));
    const letter = variantLetter(index);
    const about = { slot: slot.id, variant: variant.id } as const;
    const remove = {
      label: `Remove variant ${letter}`,
      content: removeVariant(content, slot.id, variant.id),
    };
    if (own === never) {
      const elsewhere = world.channel === 'email' && world.audience(variant.audience) !== never;
      found.push({
        ...about,
        kind: elsewhere ? 'needs-sign-in' : 'never-true',
        severity: 'wrong',
        sentence: elsewhere
          ? `${slot.name}: nobody gets variant ${letter}, since “${nameOf(variant.audience)}” asks for somebody who is signed in, and nobody is while reading an email.`
          : `${slot.name}: nobody can ever get variant ${letter}, since “${nameOf(variant.audience)}” can never be true.`,
        repairs: [remove],
      });
      continue;
    }
    const before = slot.variants.slice(0, index);
    const one = before.findIndex(
      (earlier) => diagrams.and(own, diagrams.not(world.audience(earlier.audience))) === never,
    );
    const touching = before.filter(
      (earlier) => diagrams.and(own, world.audience(earlier.audience)) !== never,
    );
    const blocking = one >= 0 ? before.slice(one, one + 1) : touching;
    const firstBlocking = before.findIndex((earlier) => blocking.includes(earlier));
    const moved = moveVariant(content, slot.id, variant.id, firstBlocking);
    // A repair is offered only where it is one: moving must not leave another variant without viewers.
    const helps = firstBlocking >= 0 && unreached(moved, slot.id, world) < unreached(content, slot.id, world);
    found.push({
      ...about,
      kind: 'shadowed',
      severity: 'wrong',
      sentence: `${slot.name}: nobody gets variant ${letter}, since everybody in “${nameOf(variant.audience)}” is in ${blocking
        .map((earlier) => `“${nameOf(earlier.audience)}”`)
        .join(' or ')} above it.`,
      repairs: [
        ...(helps ? [{ label: `Move ${letter} above ${variantLetter(firstBlocking)}`, content: moved }] : []),
        remove,
      ],
    });
  }
  const others = shown(everyoneElse);
  const about = { slot: slot.id, variant: null } as const;
  if (others === never && slot.otherwise.length > 0)
    found.push({
      ...about,
      kind: 'everyone-else-unreached',
      severity: 'careful',
      sentence: `${slot.name}: nobody is left for everyone else; what is written there is never shown.`,
      repairs: [
        {
          label: 'Show nothing there',
          content: updateSlot(content, slot.id, (old) => ({ ...old, otherwise: [] })),
        },
      ],
    });
  if (others !== never && slot.otherwise.length === 0 && slot.variants.length > 1) {
    found.push({
      ...about,
      kind: 'gap',
      severity: 'careful',
      sentence: `${slot.name}: who is in none of ${slot.variants.map((variant) => `“${nameOf(variant.audience)}”`).join(', ')} gets nothing.`,
      repairs: [],
    });
  }
  return found;
}

/** How many variants of a slot nobody can get. */
function unreached(content: Content, slotId: string, world: World): number {
  const at = slotsOf(content).findIndex((slot) => slot.id === slotId);
  const diagram = slotDiagrams(content, world)[at] ?? never;
  const variants = slotsOf(content)[at]?.variants ?? [];
  return variants.filter((_, index) => world.possibly(world.diagrams.where(diagram, index)) === never).length;
}

/** Two slots whose variants stand in opposite order for audiences that share people. */
function orderFindings(content: Content, world: World, names: Names): DocumentFinding[] {
  const found: DocumentFinding[] = [];
  const first = new Map<string, string>();
  for (const slot of slotsOf(content)) {
    const audiences = slot.variants.map((variant) => variant.audience);
    for (const [index, before] of audiences.entries())
      for (const after of audiences.slice(index + 1)) {
        const other = first.get(`${after}\n${before}`);
        const overlap = world.possibly(world.diagrams.and(world.audience(before), world.audience(after)));
        if (other !== undefined && overlap !== never)
          found.push({
            kind: 'order',
            severity: 'careful',
            slot: slot.id,
            variant: null,
            sentence: `${slot.name} asks “${names.audience(before)}” before “${names.audience(after)}”; ${other} asks them the other way round.`,
            repairs: [],
          });
        if (!first.has(`${before}\n${after}`)) first.set(`${before}\n${after}`, slot.name);
      }
  }
  return found;
}

/**
 * What is proved about a condition by itself, and against other audiences.
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
  if (own === never) return [neverTrue(condition, world, names)];
  if (own === world.possible)
    return isEmptyGroup(condition)
      ? []
      : [
          {
            kind: 'always-true',
            severity: 'careful',
            sentence: 'This is always true: everybody is in it.',
            repairs: [],
          },
        ];
  const found: ConditionFinding[] = [];
  for (const { part, without } of withoutEachPart(condition)) {
    if (of(without) !== own) continue;
    found.push({
      kind: 'no-effect',
      severity: 'careful',
      sentence: `“${sayPart(part, names)}” changes nothing: the same people are in it without.`,
      repairs: [{ label: 'Take it out', condition: without }],
    });
    // Taking two such parts out at once might change something; one at a time never does.
    break;
  }
  for (const other of others) {
    const theirs = world.possibly(world.audience(other.id));
    if (theirs === never) continue;
    if (theirs === own)
      found.push({
        kind: 'same',
        severity: 'careful',
        sentence: `The same people as “${other.name}”, for every possible person.`,
        repairs: [],
      });
    else if (diagrams.and(own, diagrams.not(theirs)) === never)
      found.push({
        kind: 'contained',
        severity: 'note',
        sentence: `Everybody in it is in “${other.name}” too, for every possible person.`,
        repairs: [],
      });
  }
  return found;
}

function neverTrue(condition: Condition, world: World, names: Names): ConditionFinding {
  const base = { kind: 'never-true', severity: 'wrong' } as const;
  const parts = condition.kind === 'all' ? condition.of : [];
  const holds = (...some: Condition[]) =>
    world.possibly(world.condition({ kind: 'all', of: some })) !== never;
  const without = (part: Condition): Condition => ({
    kind: 'all',
    of: parts.filter((other) => other !== part),
  });
  const alone = parts.find((part) => !holds(part));
  if (alone)
    return {
      ...base,
      sentence: `Nobody can ever be in it: “${sayPart(alone, names)}” can never be true.`,
      repairs: [{ label: 'Take it out', condition: without(alone) }],
    };
  for (const [index, one] of parts.entries())
    for (const two of parts.slice(index + 1)) {
      if (holds(one, two)) continue;
      const joined = joinedChoice(one, two);
      return {
        ...base,
        sentence: `Nobody can ever be in it: “${sayPart(one, names)}” and “${sayPart(two, names)}” exclude each other.`,
        repairs: [
          ...(joined
            ? [
                {
                  label: `Make it “${sayPart(joined, names)}”`,
                  condition: {
                    kind: 'all' as const,
                    of: parts.flatMap((part) => (part === one ? [joined] : part === two ? [] : [part])),
                  },
                },
              ]
            : []),
          { label: `Take “${sayPart(two, names)}” out`, condition: without(two) },
        ],
      };
    }
  return {
    ...base,
    sentence: 'Nobody can ever be in it: its parts together exclude everybody.',
    repairs: [],
  };
}

/** Two tests for different values of one choice, as the one test for either that was probably meant. */
function joinedChoice(one: Condition, two: Condition): Condition | undefined {
  if (one.kind !== 'test' || two.kind !== 'test' || one.attribute !== two.attribute) return undefined;
  if (one.op !== 'is-one-of' || two.op !== 'is-one-of') return undefined;
  return { ...one, values: [...new Set([...one.values, ...two.values])] };
}

/** Each part of the condition's groups, with the condition as it is without that part. */
function* withoutEachPart(condition: Condition): Generator<{ part: Condition; without: Condition }> {
  if (condition.kind === 'not') {
    for (const { part, without } of withoutEachPart(condition.of))
      yield { part, without: { kind: 'not', of: without } };
    return;
  }
  if (condition.kind !== 'all' && condition.kind !== 'any') return;
  for (const [index, part] of condition.of.entries()) {
    if (condition.of.length > 1)
      yield { part, without: { ...condition, of: condition.of.filter((_, at) => at !== index) } };
    for (const inner of withoutEachPart(part))
      yield {
        part: inner.part,
        without: { ...condition, of: condition.of.map((old, at) => (at === index ? inner.without : old)) },
      };
  }
}

function isEmptyGroup(condition: Condition): boolean {
  return condition.kind === 'all' && condition.of.length === 0;
}

function sayPart(part: Condition, names: Names): string {
  return say(part, names.catalogue, names.audience);
}
