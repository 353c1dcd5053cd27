import { type Condition, not, test } from './condition.ts';

/** What always holds between built-in attributes, for whoever looks. */
export const builtinFacts: readonly Condition[] = [
  not({ kind: 'all', of: [test('visit-returning', 'is-yes'), test('visit-count', 'at-most', 1)] }),
  not({ kind: 'all', of: [test('visit-returning', 'is-no'), test('visit-count', 'at-least', 2)] }),
];
