import { choicesOf } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, leavesOf, type Test, test as testOf } from '../conditions/condition.ts';
import type { Diagram } from './diagrams/diagrams.ts';
import { endOf, startOf } from './moments.ts';
import type { World } from './world.ts';

/** Every test that a condition asks, through audiences too, each audience once. */
export function* testsIn(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  seen = new Set<string>(),
): Generator<Test> {
  for (const leaf of leavesOf(condition)) {
    if (leaf.kind === 'test') yield leaf;
    else if (!seen.has(leaf.audience)) {
      seen.add(leaf.audience);
      const inner = conditionOf(leaf.audience);
      if (inner) yield* testsIn(inner, conditionOf, seen);
    }
  }
}

/** When a window that a condition asks for closed for good; undefined where none has. */
export function closedAt(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  { instant }: World,
  catalogue: Catalogue,
): number | undefined {
  for (const test of testsIn(condition, conditionOf)) {
    const end = endOf(test, catalogue);
    if (end <= instant) return end;
  }
  return undefined;
}

/**
 * When some viewers come to be that there are none of now, because of a window that has still to open; undefined where
 * there are some now, never any, or where no window is to blame.
 */
export function opensAt(
  who: () => Diagram,
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  world: World,
  catalogue: Catalogue,
): number | undefined {
  const starts = [...testsIn(condition, conditionOf)].flatMap(
    (test) => startOf(test, catalogue, world.instant) ?? [],
  );
  if (starts.length === 0) return undefined;
  const first = world.firstMoment(who());
  if (first === undefined || first <= world.instant) return undefined;
  return starts.some((start) => start <= first) ? first : undefined;
}

/** A window over midnight beside weekdays, with the two things that it may be meant to be. */
export interface OverMidnight {
  readonly time: Test;
  readonly weekdays: Test;
  /** The weekdays that are named, and those after them, by their ids. */
  readonly days: readonly string[];
  readonly nextDays: readonly string[];
  /** From the evening of each weekday until the next morning. */
  readonly throughTheNight: Condition;
  /** The window as literal conditions: the early and late hours of each weekday. */
  readonly earlyAndLate: Condition;
}

/** A time of day over midnight that stands beside weekdays in an "all of"; undefined where there is none. */
export function overMidnight(parts: readonly Condition[], catalogue: Catalogue): OverMidnight | undefined {
  const tests = parts.filter((part) => part.kind === 'test');
  const time = tests.find(({ attribute, op, values: [from = '', to = ''] }) => {
    return attribute === 'moment-time' && op === 'between' && from > to && to !== '00:00';
  });
  const weekdays = tests.find(
    ({ attribute, op }) => attribute === 'moment-weekday' && (op === 'is-one-of' || op === 'between'),
  );
  const attribute = catalogue.get('moment-weekday');
  if (!time || !weekdays || !attribute) return undefined;
  const days = choicesOf(attribute).map(({ id }) => id);
  const [first = '', second = ''] = weekdays.values.map(String);
  const named =
    weekdays.op === 'between'
      ? days.slice(days.indexOf(first), days.indexOf(second) + 1)
      : days.filter((day) => weekdays.values.includes(day));
  // On every day of the week it makes no difference which night is meant.
  if (named.length === days.length) return undefined;
  const [from = '', to = ''] = time.values;
  const on = (some: readonly string[]) => testOf('moment-weekday', 'is-one-of', ...some);
  const evening = testOf('moment-time', 'between', from, '00:00');
  const morning = testOf('moment-time', 'between', '00:00', to);
  const next = days.filter((day) =>
    named.includes(days[(days.indexOf(day) + days.length - 1) % days.length] ?? ''),
  );
  return {
    time,
    weekdays,
    days: named,
    nextDays: next,
    throughTheNight: any(all(on(named), evening), all(on(next), morning)),
    earlyAndLate: any(all(on(named), morning), all(on(named), evening)),
  };
}
