import type { Attribute, AttributeSource, AttributeType } from '../attributes/attribute.ts';

export type OperandKind =
  | 'choice'
  | 'number'
  | 'date'
  | 'days'
  | 'text'
  /** Something that a text may contain, start or end with. */
  | 'part'
  /** A local date and time, `2026-12-24T18:00`. */
  | 'moment'
  /** A time of day, `18:30`. */
  | 'time'
  | 'country'
  /** A range of IP addresses, `203.0.113.0/24`. */
  | 'network'
  | 'language'
  | 'path'
  /** A path with `*` and `**`. */
  | 'pattern'
  | 'minutes'
  /** A recurrence rule of RFC 5545, `FREQ=WEEKLY;BYDAY=FR`. */
  | 'rule'
  /** The id of a contact attribute whose value the viewer brings. */
  | 'attribute';

export interface Operator {
  /** How many operands: none, exactly one, exactly two (from, to), one and more, or one of each kind in `operand`. */
  readonly arity: 'none' | 'one' | 'two' | 'many' | 'each';
  readonly operand: OperandKind | readonly OperandKind[];
  /** For choices with an order only. */
  readonly ordered?: boolean;
  /** For attributes of these sources only. */
  readonly sources?: readonly AttributeSource[];
}

const presence = {
  'has-value': { arity: 'none', operand: 'text' },
  'has-no-value': { arity: 'none', operand: 'text' },
} as const satisfies Record<string, Operator>;

const notTheMoment = ['contact', 'visit', 'item'] as const;

/**
 * The tests each type of attribute allows. A test on a missing value is false, except for those that are the exact
 * complement of another (`is-none-of`, `includes-none`, `has-no-value` and the like), which hold for a missing value.
 * What each means stands in meaning.ts, how it reads in english.ts.
 */
export const operators = {
  'yes-no': {
    'is-yes': { arity: 'none', operand: 'text' },
    'is-no': { arity: 'none', operand: 'text' },
    ...presence,
  },
  choice: {
    'is-one-of': { arity: 'many', operand: 'choice' },
    'is-none-of': { arity: 'many', operand: 'choice' },
    'at-least': { arity: 'one', operand: 'choice', ordered: true },
    'at-most': { arity: 'one', operand: 'choice', ordered: true },
    between: { arity: 'two', operand: 'choice', ordered: true },
    ...presence,
  },
  set: {
    'includes-any': { arity: 'many', operand: 'choice' },
    'includes-all': { arity: 'many', operand: 'choice' },
    'includes-none': { arity: 'many', operand: 'choice' },
    'includes-own': { arity: 'one', operand: 'attribute', sources: ['item'] },
    ...presence,
  },
  number: {
    equals: { arity: 'one', operand: 'number' },
    'at-least': { arity: 'one', operand: 'number' },
    'at-most': { arity: 'one', operand: 'number' },
    'more-than': { arity: 'one', operand: 'number' },
    'fewer-than': { arity: 'one', operand: 'number' },
    between: { arity: 'two', operand: 'number' },
    ...presence,
  },
  date: {
    on: { arity: 'one', operand: 'date' },
    before: { arity: 'one', operand: 'date' },
    after: { arity: 'one', operand: 'date' },
    between: { arity: 'two', operand: 'date' },
    'within-last': { arity: 'one', operand: 'days' },
    'within-next': { arity: 'one', operand: 'days' },
    'anniversary-within': { arity: 'one', operand: 'days' },
    ...presence,
  },
  'date-time': {
    before: { arity: 'one', operand: 'moment' },
    from: { arity: 'one', operand: 'moment' },
    between: { arity: 'two', operand: 'moment' },
    'within-last': { arity: 'one', operand: 'days', sources: notTheMoment },
    'within-next': { arity: 'one', operand: 'days', sources: notTheMoment },
    recurs: { arity: 'each', operand: ['moment', 'minutes', 'rule'], sources: ['moment'] },
    ...presence,
  },
  time: {
    between: { arity: 'two', operand: 'time' },
    ...presence,
  },
  text: {
    'is-one-of': { arity: 'many', operand: 'text' },
    'is-none-of': { arity: 'many', operand: 'text' },
    contains: { arity: 'one', operand: 'part' },
    'starts-with': { arity: 'one', operand: 'part' },
    'ends-with': { arity: 'one', operand: 'part' },
    'same-as': { arity: 'one', operand: 'attribute', sources: ['item'] },
    ...presence,
  },
  country: {
    'is-one-of': { arity: 'many', operand: 'country' },
    'is-none-of': { arity: 'many', operand: 'country' },
    ...presence,
  },
  address: {
    'in-range': { arity: 'many', operand: 'network' },
    'not-in-range': { arity: 'many', operand: 'network' },
    ...presence,
  },
  language: {
    prefers: { arity: 'many', operand: 'language' },
    accepts: { arity: 'many', operand: 'language' },
    'accepts-none': { arity: 'many', operand: 'language' },
    ...presence,
  },
  path: {
    'is-one-of': { arity: 'many', operand: 'path' },
    'is-none-of': { arity: 'many', operand: 'path' },
    matches: { arity: 'many', operand: 'pattern' },
    'matches-none': { arity: 'many', operand: 'pattern' },
    ...presence,
  },
} as const satisfies Record<AttributeType, Record<string, Operator>>;

/** Attributes of the moment always have a value; asking whether they do would be no question. */
function fits(attribute: Attribute, op: string, operator: Operator): boolean {
  if (operator.ordered && !(attribute.type === 'choice' && attribute.ordered)) return false;
  if (attribute.source === 'moment' && op in presence) return false;
  return operator.sources?.includes(attribute.source) ?? true;
}

export function operatorsFor(attribute: Attribute): [string, Operator][] {
  const table: Record<string, Operator> = operators[attribute.type];
  return Object.entries(table).filter(([op, operator]) => fits(attribute, op, operator));
}

export function operatorOf(attribute: Attribute, op: string): Operator | undefined {
  const table: Record<string, Operator> = operators[attribute.type];
  const operator = Object.hasOwn(table, op) ? table[op] : undefined;
  return operator && fits(attribute, op, operator) ? operator : undefined;
}

/** What the operand at a place has to be. */
export function operandKind(operator: Operator, place: number): OperandKind {
  return typeof operator.operand === 'string' ? operator.operand : (operator.operand[place] ?? 'text');
}
