import { describe, expect, it } from 'vitest';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { operatorOf, operatorsFor } from '../../../core/conditions/operators.ts';
import { validate } from '../../../core/conditions/validate.ts';
import { demoAttributes } from '../../../demo/scenario.ts';
import { startingTest, withOperator } from './starting-test.ts';

const extra: Attribute[] = [
  { id: 'opens-at', label: 'opens at', source: 'contact', description: '', type: 'time' },
  { id: 'last-seen', label: 'last seen', source: 'contact', description: '', type: 'date-time' },
  { id: 'home-address', label: 'home address', source: 'contact', description: '', type: 'address' },
  { id: 'favourite-page', label: 'favourite page', source: 'contact', description: '', type: 'path' },
];
const catalogue = new Catalogue([...demoAttributes, ...extra], 'Europe/London');
/** What may be wrong with a test that was just begun: its value is still to be given. */
const unfinished =
  /(a value is needed|two values are needed|\d values are needed|choose at least one value)$/;
const problemsOf = (test: Test) =>
  validate(test, { catalogue, hasAudience: () => false })
    .map(({ message }) => message)
    .filter((message) => !unfinished.test(message));

describe('a test that was just begun', () => {
  it.each(catalogue.attributes.map((attribute) => [attribute.label, attribute] as const))(
    'of %s is one of its own, and only ever lacks a value',
    (_label, attribute) => {
      const test = startingTest(attribute, catalogue);
      expect(operatorOf(attribute, test.op)).toBeDefined();
      expect(problemsOf(test)).toEqual([]);
    },
  );

  it('counts at once where something can be guessed', () => {
    const whole = (id: string) => {
      const attribute = catalogue.get(id);
      if (!attribute) throw new Error(id);
      return validate(startingTest(attribute, catalogue), { catalogue, hasAudience: () => false });
    };
    for (const id of [
      'tier',
      'roles',
      'visits',
      'renewal',
      'opens-at',
      'last-seen',
      'signed-in',
      'first-name',
    ])
      expect([id, whole(id)]).toEqual([id, []]);
  });
});

describe('a test that is given another operator', () => {
  it.each(catalogue.attributes.map((attribute) => [attribute.label, attribute] as const))(
    'of %s is valid or lacks a value, whatever it was before',
    (_label, attribute) => {
      for (const [from, before] of operatorsFor(attribute))
        for (const [to, next] of operatorsFor(attribute)) {
          const start = withOperator(startingTest(attribute, catalogue), attribute, from, before, catalogue);
          const test = withOperator(start, attribute, to, next, catalogue);
          expect([from, to, problemsOf(test)]).toEqual([from, to, []]);
        }
    },
  );

  it('keeps the values that the other operator asks for too', () => {
    const tier = catalogue.get('tier');
    const noneOf = tier && operatorOf(tier, 'is-none-of');
    const atLeast = tier && operatorOf(tier, 'at-least');
    if (!tier || !noneOf || !atLeast) throw new Error('tier');
    const some: Test = { kind: 'test', attribute: 'tier', op: 'is-one-of', values: ['twilight', 'midnight'] };
    expect(withOperator(some, tier, 'is-none-of', noneOf, catalogue).values).toEqual([
      'twilight',
      'midnight',
    ]);
    expect(withOperator(some, tier, 'at-least', atLeast, catalogue).values).toEqual(['twilight']);
  });
});
