import { dequal } from 'dequal';
import type { Condition, Test } from './condition.ts';

/** Operators that are the exact complement of each other. */
const complements: ReadonlyMap<string, string> = new Map(
  [
    ['is-one-of', 'is-none-of'],
    ['includes-any', 'includes-none'],
    ['has-value', 'has-no-value'],
    ['in-range', 'not-in-range'],
    ['accepts', 'accepts-none'],
    ['matches', 'matches-none'],
  ].flatMap(([one = '', other = '']): [string, string][] => [
    [one, other],
    [other, one],
  ]),
);

/**
 * Operators whose operands may be joined: in a group of the first kind, two tests of one attribute mean the same as
 * one test with the operands of both; in a group of the second kind, where `meet` is set, with those they share.
 */
const joins: { readonly [op: string]: { group: 'all' | 'any'; meet?: boolean } } = {
  'is-one-of': { group: 'any', meet: true },
  'is-none-of': { group: 'all', meet: true },
  'includes-any': { group: 'any' },
  'includes-none': { group: 'all' },
  'includes-all': { group: 'all' },
  'in-range': { group: 'any' },
  'not-in-range': { group: 'all' },
  matches: { group: 'any' },
  'matches-none': { group: 'all' },
};

const everybody: Condition = { kind: 'all', of: [] };
const nobody: Condition = { kind: 'any', of: [] };

/** The exact complement of a test as one test, where there is an operator for it. */
export function complementOf(test: Test): Test | undefined {
  const op = complements.get(test.op);
  return op === undefined ? undefined : { ...test, op };
}

/**
 * A shorter condition with the same outcome for every viewer: nested groups of one kind flattened, repetitions, double
 * negations and groups of one removed, tests of one attribute joined, constants worked out. A condition that can't be
 * shortened comes back as it is. Laws of Boolean algebra; nothing is assumed about values.
 */
export function simplify(condition: Condition): Condition {
  switch (condition.kind) {
    case 'test':
    case 'audience':
      return condition;
    case 'not':
      return negated(simplify(condition.of));
    default:
      return grouped(condition.kind, condition.of.map(simplify));
  }
}

function negated(part: Condition): Condition {
  if (part.kind === 'not') return part.of;
  if (part.kind === 'test') return complementOf(part) ?? { kind: 'not', of: part };
  if (isConstant(part)) return part.kind === 'all' ? nobody : everybody;
  return { kind: 'not', of: part };
}

function isConstant(part: Condition): part is { kind: 'all' | 'any'; of: Condition[] } {
  return (part.kind === 'all' || part.kind === 'any') && part.of.length === 0;
}

function grouped(kind: 'all' | 'any', parts: readonly Condition[]): Condition {
  const flat: Condition[] = [];
  for (const part of parts) {
    // An empty group of the same kind changes nothing; one of the other kind decides.
    if (isConstant(part) && part.kind !== kind) return part;
    for (const inner of part.kind === kind ? part.of : [part])
      if (!flat.some((other) => dequal(other, inner))) flat.push(inner);
  }
  const joined = joinTests(kind, flat);
  if (joined === undefined || joined.some((part) => joined.some((other) => dequal(negated(part), other))))
    return kind === 'all' ? nobody : everybody;
  const kept = joined.filter((part) => !absorbed(kind, part, joined));
  const [only] = kept;
  return kept.length === 1 && only ? only : { kind, of: kept };
}

/** Tests of one attribute joined where they may be; undefined where nothing is left that both allow. */
function joinTests(kind: 'all' | 'any', parts: readonly Condition[]): Condition[] | undefined {
  const made: Condition[] = [];
  for (const part of parts) {
    const join = part.kind === 'test' ? joins[part.op] : undefined;
    const at = made.findIndex(
      (other) =>
        part.kind === 'test' &&
        other.kind === 'test' &&
        other.attribute === part.attribute &&
        other.op === part.op,
    );
    const before = made[at];
    if (!join || part.kind !== 'test' || before?.kind !== 'test') made.push(part);
    else if (join.group === kind)
      made[at] = { ...before, values: [...new Set([...before.values, ...part.values])] };
    else if (join.meet) {
      const values = before.values.filter((value) => part.values.includes(value));
      if (values.length === 0) return undefined;
      made[at] = { ...before, values };
    } else made.push(part);
  }
  return made;
}

/** Whether a part says nothing beside another: "A and (A or B)" is "A". */
function absorbed(kind: 'all' | 'any', part: Condition, parts: readonly Condition[]): boolean {
  const other = kind === 'all' ? 'any' : 'all';
  return (
    part.kind === other && part.of.some((inner) => parts.some((one) => one !== part && dequal(one, inner)))
  );
}
