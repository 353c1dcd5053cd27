import fc from 'fast-check';
import type { Attribute } from '../core/attributes/attribute.ts';
import { dayNumber, isoDate } from '../core/attributes/calendar.ts';
import { type Condition, not, test } from '../core/conditions/condition.ts';
import { type Operator, operatorsFor } from '../core/conditions/operators.ts';

const contact = { source: 'contact', description: '' } as const;
const choices = (...ids: string[]) => ids.map((id) => ({ id, label: id }));
/** One attribute of each type. */
export const attributes: Attribute[] = [
  {
    ...contact,
    id: 'tier',
    label: 'tier',
    type: 'choice',
    ordered: true,
    choices: choices('dusk', 'twilight', 'midnight'),
  },
  {
    ...contact,
    id: 'plan',
    label: 'plan',
    type: 'choice',
    ordered: false,
    choices: choices('digital', 'print'),
  },
  {
    ...contact,
    id: 'tags',
    label: 'tags',
    type: 'set',
    choices: choices('a', 'b', 'c'),
    exclusiveGroups: [],
  },
  { ...contact, id: 'visits', label: 'visits', type: 'number' },
  { ...contact, id: 'renewal', label: 'renewal', type: 'date' },
  { ...contact, id: 'city', label: 'city', type: 'text' },
  { ...contact, id: 'vip', label: 'vip', type: 'yes-no' },
];
const operand = (attribute: Attribute, operator: Operator): fc.Arbitrary<(string | number)[]> => {
  const one: fc.Arbitrary<string | number> =
    operator.operand === 'choice'
      ? fc.constantFrom(...('choices' in attribute ? attribute.choices.map((choice) => choice.id) : ['']))
      : operator.operand === 'number'
        ? fc.integer({ min: -3, max: 6 })
        : operator.operand === 'days'
          ? fc.integer({ min: 0, max: 9 })
          : operator.operand === 'date'
            ? fc.integer({ min: -9, max: 9 }).map((by) => isoDate((dayNumber('2026-11-24') ?? 0) + by))
            : fc.constantFrom('Larkhaven', 'lark', 'N', 'é');
  if (operator.arity === 'none') return fc.constant([]);
  if (operator.arity === 'one') return fc.tuple(one);
  if (operator.arity === 'many') return fc.uniqueArray(one, { minLength: 1, maxLength: 3 });
  const order = 'choices' in attribute ? attribute.choices.map((choice) => choice.id) : undefined;
  return fc
    .tuple(one, one)
    .map((pair) =>
      pair.sort((left, right) =>
        order ? order.indexOf(String(left)) - order.indexOf(String(right)) : left < right ? -1 : 1,
      ),
    );
};
/** A sound test of any type and operator, over the attributes above. */
const randomTest: fc.Arbitrary<Condition> = fc
  .constantFrom(...attributes)
  .chain((attribute) =>
    fc
      .constantFrom(...operatorsFor(attribute))
      .chain(([op, operator]) =>
        operand(attribute, operator).map((values) => test(attribute.id, op, ...values)),
      ),
  );
/** Conditions of any shape, without references. */
export const { condition: randomCondition } = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    randomTest,
    fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'all', of })),
    fc.array(tie('condition'), { maxLength: 3 }).map((of): Condition => ({ kind: 'any', of })),
    tie('condition').map(not),
  ),
}));
/** A contact's values, any of them missing. */
export const randomValues = fc.record(
  {
    tier: fc.constantFrom('dusk', 'twilight', 'midnight'),
    plan: fc.constantFrom('digital', 'print'),
    tags: fc.uniqueArray(fc.constantFrom('a', 'b', 'c')),
    visits: fc.integer({ min: -3, max: 6 }),
    renewal: fc.integer({ min: -9, max: 9 }).map((by) => isoDate((dayNumber('2026-11-24') ?? 0) + by)),
    city: fc.constantFrom('Larkhaven', 'Nuño', 'Élise'),
    vip: fc.boolean(),
  },
  { requiredKeys: [] },
);
