import { choiceLabel } from '../attributes/attribute.ts';
import type { Condition, Test } from '../conditions/condition.ts';
import { type Diagram, never } from './diagrams/diagrams.ts';
import { either, listed, type Names, quoteAudience, quotePart } from './finding.ts';
import type { World } from './world.ts';

/** A part of a condition that has to hold for it to hold. */
export interface Demand {
  readonly part: Condition;
  /** The path of the part of the condition itself that it comes from; see regroup.ts. */
  readonly path: string;
  /** The audiences through which it is asked, outermost first; none for a part of the condition itself. */
  readonly through: readonly string[];
}

/** Most demands that are tried two by two and three by three. */
const [mostPaired, mostTripled] = [150, 40];

/**
 * Everything that has to hold for a condition to hold: the parts of its "all of", of those within, and of the audiences it
 * names; "not any of" is "all of not".
 */
export function demandsOf(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
): Demand[] {
  const found: Demand[] = [];
  const seen = new Set<string>();
  /** @param own the path of what would have to go for the part to go: of a "not" all of it */
  const walk = (
    part: Condition,
    negated: boolean,
    path: string,
    own: string,
    through: readonly string[],
  ): void => {
    const at = (step: string) => (path === '' ? step : `${path}.${step}`);
    if (part.kind === 'not') {
      walk(part.of, !negated, at('of'), own, through);
      return;
    }
    if (part.kind === (negated ? 'any' : 'all')) {
      for (const [index, inner] of part.of.entries()) {
        const inside = at(`of.${index}`);
        walk(inner, negated, inside, through.length > 0 ? own : inside, through);
      }
      return;
    }
    if (part.kind === 'audience') {
      const inner = conditionOf(part.audience);
      const key = `${negated} ${part.audience}`;
      if (seen.has(key)) return;
      // An audience that is a single requirement is clearer by its name.
      const opens = inner && inner.kind !== (negated ? 'all' : 'any');
      if (opens) {
        seen.add(key);
        walk(inner, negated, path, own, [...through, part.audience]);
        return;
      }
    }
    found.push({ part: negated ? { kind: 'not', of: part } : part, path: own, through });
  };
  walk(condition, false, '', '', []);
  return found;
}

/**
 * The smallest set of demands that nobody meets together, of those that no viewer in a diagram meets all of: exact up to
 * three, beyond that one from which nothing can be left out. Undefined where somebody meets all.
 *
 * @param among the viewers that there can be
 */
export function smallestContradiction(
  demands: readonly Demand[],
  among: Diagram,
  world: World,
): Demand[] | undefined {
  const { diagrams } = world;
  const own = demands.map(({ part }) => diagrams.and(among, world.condition(part)));
  const meet = (...places: number[]) => {
    let all = among;
    for (const place of places) {
      all = diagrams.and(all, own[place] ?? never);
      if (all === never) break;
    }
    return all;
  };
  const pick = (...places: number[]) => places.flatMap((place) => demands[place] ?? []);
  for (let one = 0; one < own.length; one++) if (own[one] === never) return pick(one);
  if (own.length <= mostPaired)
    for (let one = 0; one < own.length; one++)
      for (let two = one + 1; two < own.length; two++) if (meet(one, two) === never) return pick(one, two);
  if (own.length <= mostTripled)
    for (let one = 0; one < own.length; one++)
      for (let two = one + 1; two < own.length; two++)
        for (let three = two + 1; three < own.length; three++)
          if (meet(one, two, three) === never) return pick(one, two, three);
  let kept = demands.map((_, place) => place);
  if (meet(...kept) !== never) return undefined;
  for (const place of [...kept].reverse()) {
    const fewer = kept.filter((other) => other !== place);
    if (meet(...fewer) === never) kept = fewer;
  }
  return pick(...kept);
}

/** Why some demands can't be met together, as a clause: "“tier is Dusk” and “tier is Midnight” exclude each other". */
export function sayContradiction(core: readonly Demand[], names: Names): string {
  const said = core.map(({ part, through }) => {
    const words = quotePart(part, names);
    return through.length === 0 ? words : `${words} (asked by ${quoteAudience(through.at(-1) ?? '', names)})`;
  });
  const group = sayGroup(core, names);
  const [first] = said;
  if (first === undefined) return 'its parts together exclude everybody';
  if (core.length === 1) {
    const [only] = core;
    const reason = group ?? (only ? sayAlone(only.part) : undefined);
    return `${first} can never be true${reason ? `: ${reason}` : ''}`;
  }
  const clause =
    core.length === 2 ? `${listed(said)} exclude each other` : `${listed(said)} can’t all be true`;
  return group ? `${clause}: ${group}` : clause;
}

/** A sentence about the exclusive group that keeps values apart, where it is one. */
function sayGroup(core: readonly Demand[], { catalogue }: Names): string | undefined {
  const held: Test[] = core.flatMap(({ part }) =>
    part.kind === 'test' && (part.op === 'includes-all' || part.op === 'includes-any') ? [part] : [],
  );
  const [first] = held;
  const attribute = first && catalogue.get(first.attribute);
  if (attribute?.type !== 'set' || held.length !== core.length) return undefined;
  if (held.some((test) => test.attribute !== attribute.id)) return undefined;
  const ids = new Set(held.flatMap(({ values }) => values.map(String)));
  const group = attribute.exclusiveGroups.find(
    ({ members }) => [...ids].filter((id) => members.includes(id)).length > 1,
  );
  if (!group) return undefined;
  const labels = group.members.filter((id) => ids.has(id)).map((id) => choiceLabel(attribute, id));
  return `of “${group.name}” nobody has more than one of ${either(labels)}`;
}

function sayAlone(part: Condition): string | undefined {
  if (part.kind === 'any')
    return part.of.length === 0 ? 'any of nothing is nobody' : 'none of its parts can be true';
  return undefined;
}
