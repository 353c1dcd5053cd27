import type { Attribute } from '../core/attributes/attribute.ts';
import { choicesOf } from '../core/attributes/attribute.ts';
import { dayNumber } from '../core/attributes/calendar.ts';
import type { Condition, Test } from '../core/conditions/condition.ts';

/** A rule of json-logic-engine that means the same as a condition, for measuring against. */
export function jsonLogicOf(
  condition: Condition,
  attributeOf: (id: string) => Attribute | undefined,
  conditionOf: (audience: string) => Condition | undefined,
  today: number,
): unknown {
  const walk = (part: Condition): unknown => {
    switch (part.kind) {
      case 'test': {
        const attribute = attributeOf(part.attribute);
        if (!attribute) throw new Error(part.attribute);
        return ruleOf(part, attribute, today);
      }
      case 'audience': {
        const inner = conditionOf(part.audience);
        if (!inner) throw new Error(part.audience);
        return walk(inner);
      }
      case 'not':
        return { '!': [walk(part.of)] };
      case 'all':
        return part.of.length === 1 && part.of[0] ? walk(part.of[0]) : { and: part.of.map(walk) };
      case 'any':
        return part.of.length === 1 && part.of[0] ? walk(part.of[0]) : { or: part.of.map(walk) };
    }
  };
  return walk(condition);
}

function ruleOf(test: Test, attribute: Attribute, today: number): unknown {
  const value = { var: test.attribute };
  const present = { '!==': [{ var: [test.attribute, null] }, null] };
  const [first, second] = test.values;
  const order = choicesOf(attribute).map((choice) => choice.id);
  const operand = (raw: string | number | undefined) =>
    attribute.type === 'date' ? (dayNumber(String(raw)) ?? Number.NaN) : raw;
  const among = (values: readonly unknown[]) =>
    values.length === 1 ? { '===': [value, values[0]] } : { in: [value, values] };
  switch (test.op) {
    case 'is-yes':
      return { '===': [value, true] };
    case 'has-value':
      return present;
    case 'has-no-value':
      return { '!': [present] };
    case 'is-one-of':
      return among(test.values);
    case 'is-none-of':
      return { '!': [among(test.values)] };
    case 'at-least':
      return attribute.type === 'choice'
        ? { in: [value, order.slice(order.indexOf(String(first)))] }
        : { and: [present, { '>=': [value, first] }] };
    case 'at-most':
      return { in: [value, order.slice(0, order.indexOf(String(first)) + 1)] };
    case 'fewer-than':
    case 'before':
      return { and: [present, { '<': [value, operand(first)] }] };
    case 'between':
      return { and: [present, { '<=': [operand(first), value, operand(second)] }] };
    case 'includes-any':
      return { some: [value, { in: [{ var: '' }, test.values] }] };
    case 'includes-none':
      return { '!': [{ some: [value, { in: [{ var: '' }, test.values] }] }] };
    case 'within-next':
      return { and: [present, { '<=': [today, value, today + Number(first)] }] };
    case 'within-last':
      return { and: [present, { '<=': [today - Number(first), value, today] }] };
    default:
      throw new Error(`the benchmark has no rule for ${test.op}`);
  }
}
