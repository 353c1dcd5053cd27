import type { Condition, Test } from './condition.ts';

/** The same condition with each test put through a change, or something else in its place. */
export function mapTests(condition: Condition, change: (test: Test) => Condition): Condition {
  switch (condition.kind) {
    case 'test':
      return change(condition);
    case 'audience':
      return condition;
    case 'not':
      return { ...condition, of: mapTests(condition.of, change) };
    default:
      return { ...condition, of: condition.of.map((part) => mapTests(part, change)) };
  }
}

/** The same condition where one choice of an attribute has become another: named once where both were named. */
export function withChoiceMerged(
  condition: Condition,
  attribute: string,
  from: string,
  into: string,
): Condition {
  return mapTests(condition, (test) =>
    test.attribute !== attribute || !test.values.includes(from)
      ? test
      : { ...test, values: [...new Set(test.values.map((value) => (value === from ? into : value)))] },
  );
}
