import { type Condition, type Test, test as testOf } from './condition.ts';

/** Tests that hold for a missing value already. */
const heldByMissing = new Set([
  'has-value',
  'has-no-value',
  'is-none-of',
  'includes-none',
  'not-in-range',
  'accepts-none',
  'matches-none',
]);

/**
 * A condition that holds besides for everybody who would be in the original if the values they lack were the ones that
 * are asked for: each test that a missing value fails holds for it, wherever that lets more people in. Who is in this
 * and not in the original is left out only for lack of a value.
 *
 * @param mayLack the attributes whose missing values count as lacking
 */
export function withoutGaps(condition: Condition, mayLack: (attribute: string) => boolean): Condition {
  return opened(condition, true, mayLack);
}

function opened(condition: Condition, letsIn: boolean, mayLack: (attribute: string) => boolean): Condition {
  switch (condition.kind) {
    case 'test':
      return letsIn && !heldByMissing.has(condition.op) && mayLack(condition.attribute)
        ? orMissing(condition)
        : condition;
    case 'audience':
      return condition;
    case 'not':
      return { kind: 'not', of: opened(condition.of, !letsIn, mayLack) };
    default:
      return { ...condition, of: condition.of.map((part) => opened(part, letsIn, mayLack)) };
  }
}

function orMissing(test: Test): Condition {
  return { kind: 'any', of: [test, testOf(test.attribute, 'has-no-value')] };
}
