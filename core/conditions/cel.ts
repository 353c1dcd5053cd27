import type { Attribute } from '../attributes/attribute.ts';
import { choicesOf } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Condition, Test } from './condition.ts';

/**
 * A condition as an expression of the Common Expression Language (cel.dev, language definition), with the same outcome;
 * cel-read.ts reads it back. It is written over four variables: `it`, a map of the viewer's values in which a missing
 * value has no key (names as {@link celName} gives them; numbers as doubles, dates as timestamps at midnight UTC,
 * instants as timestamps, times of day as texts, sets and languages as lists); `today`, the local day as a timestamp;
 * `order`, for each ordered choice the place of every value; and `audience`, a map of memberships. What standard CEL
 * has no words for are the functions of {@link celFunctions}. Throws an Error for a condition with problems.
 *
 * @param audienceKey what stands for an audience in `audience[…]`; its id when not given
 */
export function toCel(
  condition: Condition,
  catalogue: Catalogue,
  audienceKey: (id: string) => string = (id) => id,
): string {
  switch (condition.kind) {
    case 'test': {
      const attribute = catalogue.get(condition.attribute);
      if (!attribute) throw new Error(`no attribute “${condition.attribute}”`);
      return testCel(condition, attribute);
    }
    case 'audience':
      return `audience[${quoted(audienceKey(condition.audience))}]`;
    case 'not':
      return `!(${toCel(condition.of, catalogue, audienceKey)})`;
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return String(condition.kind === 'all');
      const sign = condition.kind === 'all' ? ' && ' : ' || ';
      return condition.of.map((part) => bracketed(toCel(part, catalogue, audienceKey))).join(sign);
    }
  }
}

/** The functions that expressions use beside the standard ones, with what each answers. */
export const celFunctions = {
  fold: 'a text in the form in which texts are compared: without case and accents',
  local: 'the instant when clocks of the site show a date and time',
  day: 'the local day of an instant, as a timestamp at midnight UTC',
  comesRound: 'whether the day of the year of a date comes round within a number of days from today',
  recurs: 'whether an instant is in a window that recurs: its first start, its minutes, its rule (RFC 5545)',
  inNetwork: 'whether an address is in one of some ranges',
  prefers: 'whether the first of some languages is found among tags by lookup (RFC 4647)',
  accepts: 'whether any of some languages is found among tags by lookup (RFC 4647)',
  like: 'whether a path is like one of some patterns',
} as const;

/** Words that can't stand as a name after a dot in every reader. */
const reserved = new Set(
  'as break const continue else false for function if import in let loop null namespace package return true var void while'.split(
    ' ',
  ),
);

/** The name of an attribute after `it.`: its id with underscores, one before it where it would be no name. */
export function celName(id: string): string {
  const name = id.replaceAll('-', '_');
  return /^\d/.test(name) || reserved.has(name) ? `_${name}` : name;
}

function bracketed(part: string): string {
  return / (&&|\|\|) /.test(part) ? `(${part})` : part;
}

function testCel(test: Test, attribute: Attribute): string {
  const value = `it.${celName(attribute.id)}`;
  const known = `has(${value})`;
  const when = (rest: string) => `${known} && ${rest}`;
  const except = (rest: string) => `!(${when(rest)})`;
  const [first = '', second = '', third = ''] = test.values;
  switch (`${attribute.type} ${test.op}`) {
    case 'yes-no is-yes':
      return when(value);
    case 'yes-no is-no':
      return when(`!${value}`);
    case 'set includes-any':
      return when(members(test, value, ' || '));
    case 'set includes-all':
      return when(members(test, value, ' && '));
    case 'set includes-none':
      return except(members(test, value, ' || '));
    case 'set includes-own':
      return when(`has(it.${celName(String(first))}) && it.${celName(String(first))} in ${value}`);
    case 'text same-as':
      return when(
        `has(it.${celName(String(first))}) && fold(${value}) == fold(it.${celName(String(first))})`,
      );
    case 'text is-one-of':
      return when(`fold(${value}) in ${foldedTexts(test.values)}`);
    case 'text is-none-of':
      return except(`fold(${value}) in ${foldedTexts(test.values)}`);
    case 'text contains':
      return when(`fold(${value}).contains(fold(${quoted(String(first))}))`);
    case 'text starts-with':
      return when(`fold(${value}).startsWith(fold(${quoted(String(first))}))`);
    case 'text ends-with':
      return when(`fold(${value}).endsWith(fold(${quoted(String(first))}))`);
    case 'date within-last':
    case 'date-time within-last':
      return when(withinDays(attribute.type === 'date' ? value : `day(${value})`, -Number(first)));
    case 'date within-next':
    case 'date-time within-next':
      return when(withinDays(attribute.type === 'date' ? value : `day(${value})`, Number(first)));
    case 'date anniversary-within':
      return when(`comesRound(${value}, ${first})`);
    case 'date-time recurs':
      return when(`recurs(${value}, ${quoted(String(first))}, ${second}, ${quoted(String(third))})`);
    case 'time between':
      return first < second
        ? when(`${value} >= ${quoted(String(first))} && ${value} < ${quoted(String(second))}`)
        : when(`(${value} >= ${quoted(String(first))} || ${value} < ${quoted(String(second))})`);
    case 'address in-range':
      return when(`inNetwork(${value}, ${texts(test.values)})`);
    case 'address not-in-range':
      return except(`inNetwork(${value}, ${texts(test.values)})`);
    case 'language prefers':
    case 'language accepts':
      return when(`${test.op}(${value}, ${texts(test.values)})`);
    case 'language accepts-none':
      return except(`accepts(${value}, ${texts(test.values)})`);
    case 'path matches':
      return when(`like(${value}, ${texts(test.values)})`);
    case 'path matches-none':
      return except(`like(${value}, ${texts(test.values)})`);
  }
  switch (test.op) {
    case 'has-value':
      return known;
    case 'has-no-value':
      return `!${known}`;
    case 'is-one-of':
      return when(`${value} in ${texts(test.values)}`);
    case 'is-none-of':
      return except(`${value} in ${texts(test.values)}`);
    default:
      return when(comparison(test, attribute, value));
  }
}

/** `"a" in it.tags || "b" in it.tags`, in brackets where there are several. */
function members(test: Test, value: string, sign: string): string {
  const parts = test.values.map((one) => `${quoted(String(one))} in ${value}`);
  return parts.length === 1 ? parts.join('') : `(${parts.join(sign)})`;
}

function withinDays(value: string, days: number): string {
  const span = `duration("${Math.abs(days) * 24}h")`;
  return days <= 0 && !Object.is(days, 0)
    ? `${value} <= today && ${value} >= today - ${span}`
    : `${value} >= today && ${value} <= today + ${span}`;
}

const signs: Record<string, string> = {
  equals: '==',
  on: '==',
  'at-least': '>=',
  from: '>=',
  'at-most': '<=',
  'more-than': '>',
  after: '>',
  'fewer-than': '<',
  before: '<',
};

function comparison(test: Test, attribute: Attribute, value: string): string {
  const ranked = attribute.type === 'choice';
  const order = `order.${celName(attribute.id)}`;
  const subject = ranked ? `${order}[${value}]` : value;
  const write = (operand: string | number): string => {
    if (ranked) return `${order}[${quoted(String(operand))}]`;
    if (attribute.type === 'number') return double(Number(operand));
    if (attribute.type === 'date-time') return `local(${quoted(String(operand))})`;
    return `timestamp("${operand}T00:00:00Z")`;
  };
  const [first = '', second = ''] = test.values;
  if (test.op === 'between')
    return `${subject} >= ${write(first)} && ${subject} ${attribute.type === 'date-time' ? '<' : '<='} ${write(second)}`;
  const sign = signs[test.op];
  if (!sign) throw new Error(`no test “${test.op}” on “${test.attribute}”`);
  return `${subject} ${sign} ${write(first)}`;
}

/** For `order`: the place of each value of an ordered choice. */
export function celOrder(catalogue: Catalogue): Map<string, Map<string, number>> {
  return new Map(
    catalogue.attributes
      .filter((attribute) => attribute.type === 'choice' && attribute.ordered)
      .map((attribute): [string, Map<string, number>] => [
        celName(attribute.id),
        new Map(choicesOf(attribute).map((choice, index) => [choice.id, index])),
      ]),
  );
}

function foldedTexts(values: readonly (string | number)[]): string {
  return `[${values.map((value) => `fold(${quoted(String(value))})`).join(', ')}]`;
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
