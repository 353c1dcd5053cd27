import { type Attribute, type AttributeType, choicesOf } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { type Operator, operandKind, operatorOf } from '../../../core/conditions/operators.ts';

/** What a new test compares with before anything is chosen; empty where nothing can be guessed. */
function startingOperand(
  attribute: Attribute,
  operator: Operator,
  place: number,
  catalogue: Catalogue,
): string | number {
  const today = new Date().toISOString().slice(0, 10);
  switch (operandKind(operator, place)) {
    case 'choice':
      return choicesOf(attribute)[0]?.id ?? '';
    case 'number':
      return 1;
    case 'days':
      return 30;
    case 'minutes':
      return 120;
    case 'date':
      return today;
    case 'moment':
      return `${place === 0 ? today : new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10)}T00:00`;
    case 'time':
      return place === 0 ? '18:00' : '23:00';
    case 'rule':
      return 'FREQ=WEEKLY';
    case 'attribute': {
      const wanted = attribute.type === 'set' ? 'choice' : attribute.type;
      return (
        catalogue.attributes.find(({ source, type }) => source === 'contact' && type === wanted)?.id ?? ''
      );
    }
    default:
      return '';
  }
}

/** The operator that a newly chosen attribute starts with. */
const startingOperators: Record<AttributeType, string> = {
  'yes-no': 'is-yes',
  choice: 'is-one-of',
  set: 'includes-any',
  number: 'at-least',
  date: 'within-next',
  'date-time': 'between',
  time: 'between',
  text: 'has-value',
  country: 'is-one-of',
  address: 'in-range',
  language: 'accepts',
  path: 'matches',
};

/** The test that a newly chosen attribute starts with. */
export function startingTest(attribute: Attribute, catalogue: Catalogue): Test {
  const op = startingOperators[attribute.type];
  const operator = operatorOf(attribute, op);
  const places = operator?.arity === 'none' ? 0 : operator?.arity === 'two' ? 2 : 1;
  const values = Array.from({ length: operator ? places : 0 }, (_, place) =>
    operator ? startingOperand(attribute, operator, place, catalogue) : '',
  ).filter((value) => value !== '');
  return { kind: 'test', attribute: attribute.id, op, values };
}

/** The test with another operator, keeping the operands that still fit. */
export function withOperator(
  test: Test,
  attribute: Attribute,
  op: string,
  next: Operator,
  catalogue: Catalogue,
): Test {
  const before = operatorOf(attribute, test.op);
  const kept = before && before.operand === next.operand && before.arity !== 'none' ? test.values : [];
  const start = (place: number) => startingOperand(attribute, next, place, catalogue);
  const places = { none: 0, one: 1, two: 2, many: Math.max(1, kept.length), each: next.operand.length }[
    next.arity
  ];
  const values = Array.from({ length: places }, (_, place) => kept[place] ?? start(place));
  return { ...test, op, values: values.filter((value) => value !== '') };
}
