import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { dayNumber } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Condition, Test } from './condition.ts';
import { type Operator, operatorOf } from './operators.ts';

/** What is wrong with a part of a condition; `path` leads to the part, such as `of.2.of.values.0`. */
export interface Problem {
  path: string;
  message: string;
}

export interface Surroundings {
  readonly catalogue: Catalogue;
  /** Whether an audience of this id exists. */
  readonly hasAudience: (id: string) => boolean;
}

/** Every error of a condition with its path; empty when the condition can be evaluated. */
export function validate(condition: Condition, surroundings: Surroundings): Problem[] {
  const problems: Problem[] = [];
  const walk = (part: Condition, path: readonly (string | number)[]): void => {
    switch (part.kind) {
      case 'test':
        for (const [field, message] of testProblems(part, surroundings.catalogue))
          problems.push({ path: [...path, field].join('.'), message });
        return;
      case 'audience':
        if (!surroundings.hasAudience(part.audience))
          problems.push({
            path: [...path, 'audience'].join('.'),
            message: 'names an audience that no longer exists',
          });
        return;
      case 'not':
        walk(part.of, [...path, 'of']);
        return;
      default:
        part.of.forEach((child, index) => {
          walk(child, [...path, 'of', index]);
        });
    }
  };
  walk(condition, []);
  return problems;
}

function* testProblems(test: Test, catalogue: Catalogue): Generator<[field: string, message: string]> {
  const attribute = catalogue.get(test.attribute);
  if (!attribute) {
    yield ['attribute', `names an attribute that is gone: “${test.attribute}”`];
    return;
  }
  const operator = operatorOf(attribute, test.op);
  if (!operator) {
    yield ['op', `“${test.op}” is no test for ${attribute.label}`];
    return;
  }
  const wanted = arityProblem(operator, test.values.length, attribute);
  if (wanted) {
    yield ['values', wanted];
    return;
  }
  let sound = true;
  for (const [index, value] of test.values.entries()) {
    const message = operandProblem(operator, value, attribute);
    if (message) {
      sound = false;
      yield [`values.${index}`, message];
    }
  }
  if (sound && operator.arity === 'two' && reversed(test, operator, attribute))
    yield ['values', 'the range ends before it starts'];
}

function arityProblem(operator: Operator, count: number, attribute: Attribute): string | undefined {
  if (operator.arity === 'none') return count === 0 ? undefined : 'takes no value';
  if (operator.arity === 'one') return count === 1 ? undefined : `${attribute.label}: a value is needed`;
  if (operator.arity === 'two') return count === 2 ? undefined : `${attribute.label}: two values are needed`;
  return count > 0 ? undefined : `${attribute.label}: choose at least one value`;
}

function operandProblem(
  operator: Operator,
  value: string | number,
  attribute: Attribute,
): string | undefined {
  switch (operator.operand) {
    case 'choice':
      return choicesOf(attribute).some((choice) => choice.id === value)
        ? undefined
        : `“${value}” is not a choice of ${attribute.label}`;
    case 'number':
      return typeof value === 'number' && Number.isFinite(value) ? undefined : 'is not a number';
    case 'days':
      return typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= 36_600
        ? undefined
        : 'is not a number of days from 0 to 36,600';
    case 'date':
      return typeof value === 'string' && dayNumber(value) !== undefined
        ? undefined
        : 'is not a date such as 2026-11-29';
    case 'text':
      return typeof value === 'string' && value !== '' ? undefined : 'is not a text';
  }
}

function reversed(test: Test, operator: Operator, attribute: Attribute): boolean {
  const [from, to] = test.values;
  if (operator.operand !== 'choice') return from !== undefined && to !== undefined && from > to;
  const order = choicesOf(attribute).map((choice) => choice.id);
  return order.indexOf(String(from)) > order.indexOf(String(to));
}
