import type { Attribute, AttributeType } from '../attributes/attribute.ts';

export type OperandKind = 'choice' | 'number' | 'date' | 'days' | 'text';

export interface Operator {
  /** How many operands: none, exactly one, exactly two (from, to), or one and more. */
  readonly arity: 'none' | 'one' | 'two' | 'many';
  readonly operand: OperandKind;
  /** What stands between the attribute and the operands in a sentence. */
  readonly verb: string;
  /** What stands between operands. */
  readonly joiner?: 'or' | 'and';
  /** What stands after the operands. */
  readonly after?: string;
  /** For choices with an order only. */
  readonly ordered?: boolean;
}

const presence = {
  'has-value': { arity: 'none', operand: 'text', verb: 'has a value' },
  'has-no-value': { arity: 'none', operand: 'text', verb: 'has no value' },
} as const satisfies Record<string, Operator>;

/**
 * The tests each type of attribute allows. A test on a missing value is false, except for those that are the exact
 * complement of another: `is-none-of`, `includes-none` and `has-no-value` hold for a missing value.
 */
export const operators = {
  'yes-no': {
    'is-yes': { arity: 'none', operand: 'text', verb: 'is yes' },
    'is-no': { arity: 'none', operand: 'text', verb: 'is no' },
    ...presence,
  },
  choice: {
    'is-one-of': { arity: 'many', operand: 'choice', verb: 'is', joiner: 'or' },
    'is-none-of': { arity: 'many', operand: 'choice', verb: 'is not', joiner: 'or' },
    'at-least': { arity: 'one', operand: 'choice', verb: 'is at least', ordered: true },
    'at-most': { arity: 'one', operand: 'choice', verb: 'is at most', ordered: true },
    between: { arity: 'two', operand: 'choice', verb: 'is from', joiner: 'and', ordered: true },
    ...presence,
  },
  set: {
    'includes-any': { arity: 'many', operand: 'choice', verb: 'include', joiner: 'or' },
    'includes-all': { arity: 'many', operand: 'choice', verb: 'include', joiner: 'and' },
    'includes-none': { arity: 'many', operand: 'choice', verb: 'do not include', joiner: 'or' },
    ...presence,
  },
  number: {
    equals: { arity: 'one', operand: 'number', verb: 'is exactly' },
    'at-least': { arity: 'one', operand: 'number', verb: 'is at least' },
    'at-most': { arity: 'one', operand: 'number', verb: 'is at most' },
    'more-than': { arity: 'one', operand: 'number', verb: 'is more than' },
    'fewer-than': { arity: 'one', operand: 'number', verb: 'is less than' },
    between: { arity: 'two', operand: 'number', verb: 'is from', joiner: 'and' },
    ...presence,
  },
  date: {
    on: { arity: 'one', operand: 'date', verb: 'is on' },
    before: { arity: 'one', operand: 'date', verb: 'is before' },
    after: { arity: 'one', operand: 'date', verb: 'is after' },
    between: { arity: 'two', operand: 'date', verb: 'is from', joiner: 'and' },
    'within-last': { arity: 'one', operand: 'days', verb: 'is within the last', after: 'days' },
    'within-next': { arity: 'one', operand: 'days', verb: 'is within the next', after: 'days' },
    ...presence,
  },
  text: {
    'is-one-of': { arity: 'many', operand: 'text', verb: 'is', joiner: 'or' },
    'is-none-of': { arity: 'many', operand: 'text', verb: 'is not', joiner: 'or' },
    contains: { arity: 'one', operand: 'text', verb: 'contains' },
    'starts-with': { arity: 'one', operand: 'text', verb: 'starts with' },
    'ends-with': { arity: 'one', operand: 'text', verb: 'ends with' },
    ...presence,
  },
} as const satisfies Record<AttributeType, Record<string, Operator>>;

export function operatorsFor(attribute: Attribute): [string, Operator][] {
  const table: Record<string, Operator> = operators[attribute.type];
  const ordered = attribute.type === 'choice' && attribute.ordered;
  return Object.entries(table).filter(([, operator]) => ordered || !operator.ordered);
}

export function operatorOf(attribute: Attribute, op: string): Operator | undefined {
  return operatorsFor(attribute).find(([name]) => name === op)?.[1];
}
