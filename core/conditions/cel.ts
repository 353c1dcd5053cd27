import type { Attribute } from '../attributes/attribute.ts';
import { choicesOf } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { fold } from './check.ts';
import type { Condition, Test } from './condition.ts';

/**
 * A condition as an expression of the Common Expression Language (cel.dev, language definition), with the same outcome.
 * It is written over four variables: `it`, a map of the viewer's values by attribute id in which a missing value has
 * no key (numbers as doubles, dates as timestamps at midnight UTC, sets as lists); `folded`, the texts of `it` with
 * case and accents folded; `today`, the local day as a timestamp; and `audience`, a map of memberships by audience id.
 * Throws an Error for a condition with problems.
 */
export function toCel(condition: Condition, catalogue: Catalogue): string {
  switch (condition.kind) {
    case 'test': {
      const attribute = catalogue.get(condition.attribute);
      if (!attribute) throw new Error(`no attribute “${condition.attribute}”`);
      return testCel(condition, attribute);
    }
    case 'audience':
      return `audience[${quoted(condition.audience)}]`;
    case 'not':
      return `!(${toCel(condition.of, catalogue)})`;
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return String(condition.kind === 'all');
      const sign = condition.kind === 'all' ? ' && ' : ' || ';
      return condition.of.map((part) => `(${toCel(part, catalogue)})`).join(sign);
    }
  }
}

function testCel(test: Test, attribute: Attribute): string {
  const key = quoted(attribute.id);
  const known = `${key} in it`;
  const value = `it[${key}]`;
  const when = (rest: string) => `${known} && ${rest}`;
  if (test.op === 'has-value') return known;
  if (test.op === 'has-no-value') return `!(${known})`;
  switch (attribute.type) {
    case 'yes-no':
      return when(test.op === 'is-yes' ? value : `!${value}`);
    case 'choice':
    case 'text':
      return wordCel(test, attribute, key, when);
    case 'set': {
      const list = texts(test.values);
      if (test.op === 'includes-all') return when(`${list}.all(one, one in ${value})`);
      const some = when(`${list}.exists(one, one in ${value})`);
      return test.op === 'includes-any' ? some : `!(${some})`;
    }
    case 'number':
      return when(comparison(test, value, (operand) => double(Number(operand))));
    case 'date': {
      const days = Number(test.values[0]) * 24;
      if (test.op === 'within-last')
        return when(`${value} <= today && ${value} >= today - duration("${days}h")`);
      if (test.op === 'within-next')
        return when(`${value} >= today && ${value} <= today + duration("${days}h")`);
      return when(comparison(test, value, (operand) => `timestamp("${operand}T00:00:00Z")`));
    }
  }
}

function wordCel(test: Test, attribute: Attribute, key: string, when: (rest: string) => string): string {
  const order = choicesOf(attribute).map((choice) => choice.id);
  const [first = '', second = ''] = test.values.map(String);
  const oneOf = (values: readonly (string | number)[]) => when(`it[${key}] in ${texts(values)}`);
  const part = (method: string) => when(`folded[${key}].${method}(${quoted(fold(first))})`);
  switch (test.op) {
    case 'is-one-of':
      return oneOf(test.values);
    case 'is-none-of':
      return `!(${oneOf(test.values)})`;
    case 'at-least':
      return oneOf(order.slice(order.indexOf(first)));
    case 'at-most':
      return oneOf(order.slice(0, order.indexOf(first) + 1));
    case 'between':
      return oneOf(order.slice(order.indexOf(first), order.indexOf(second) + 1));
    case 'contains':
      return part('contains');
    case 'starts-with':
      return part('startsWith');
    case 'ends-with':
      return part('endsWith');
    default:
      throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  }
}

const signs: Record<string, string> = {
  equals: '==',
  on: '==',
  'at-least': '>=',
  'at-most': '<=',
  'more-than': '>',
  after: '>',
  'fewer-than': '<',
  before: '<',
};

function comparison(test: Test, value: string, write: (operand: string | number) => string): string {
  const [first = '', second = ''] = test.values;
  if (test.op === 'between') return `${value} >= ${write(first)} && ${value} <= ${write(second)}`;
  const sign = signs[test.op];
  if (!sign) throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  return `${value} ${sign} ${write(first)}`;
}

function texts(values: readonly (string | number)[]): string {
  return `[${values.map((value) => quoted(String(value))).join(', ')}]`;
}

/** A number as a double literal, which needs a point or an exponent. */
function double(number: number): string {
  const plain = String(number);
  return /[.e]/i.test(plain) ? plain : `${plain}.0`;
}

/** A string literal: JSON's escapes are a part of CEL's, and every control character is escaped by number. */
function quoted(text: string): string {
  return JSON.stringify(text).replace(
    /[\u007f-\u009f\u2028\u2029]/g,
    (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`,
  );
}
