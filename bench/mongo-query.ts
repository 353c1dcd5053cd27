import type { Attribute } from '../core/attributes/attribute.ts';
import { dayNumber } from '../core/attributes/calendar.ts';
import type { Condition } from '../core/conditions/condition.ts';
import { today } from './crowd.ts';

/** A condition as a query of the form that sift and mingo read. */
export function mongoOf(
  condition: Condition,
  attributeOf: (id: string) => Attribute | undefined,
  conditionOf: (audience: string) => Condition | undefined,
): Record<string, unknown> {
  const inner = (part: Condition) => mongoOf(part, attributeOf, conditionOf);
  switch (condition.kind) {
    case 'audience': {
      const named = conditionOf(condition.audience);
      if (!named) throw new Error(condition.audience);
      return inner(named);
    }
    case 'not':
      return { $nor: [inner(condition.of)] };
    case 'all':
      return { $and: condition.of.map(inner) };
    case 'any':
      return { $or: condition.of.map(inner) };
    case 'test': {
      const { attribute: id, op, values } = condition;
      const attribute = attributeOf(id);
      const day = (at: number) => (attribute?.type === 'date' ? dayNumber(String(values[at])) : values[at]);
      const order = attribute?.type === 'choice' ? attribute.choices.map((choice) => choice.id) : [];
      const rule: { [op: string]: unknown } = {
        'is-yes': true,
        'has-no-value': null,
        'is-one-of': { $in: values },
        'is-none-of': { $nin: values },
        'includes-any': { $in: values },
        'includes-none': { $nin: values },
        'at-least':
          order.length > 0 ? { $in: order.slice(order.indexOf(String(values[0]))) } : { $gte: values[0] },
        'fewer-than': { $lt: values[0], $ne: null },
        before: { $lt: day(0), $ne: null },
        between: { $gte: day(0), $lte: day(1) },
        'within-last': { $gte: today - Number(values[0]), $lte: today },
      };
      return { [id]: rule[op] };
    }
  }
}
