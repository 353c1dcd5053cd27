import type { AttributeType } from '../attributes/attribute.ts';
import { sayRule } from './recurrence-rule.ts';

/** How a test reads: what stands between the attribute and the operands, between operands, and after them. */
export interface Phrase {
  readonly verb: string;
  readonly joiner?: string;
  readonly after?: string;
}

/** Everything that saying a condition takes from a language; another language is another one of these. */
export interface Phrasebook {
  /** A BCP 47 tag, for dates, numbers and the names of countries. */
  readonly locale: string;
  readonly tests: Readonly<Record<AttributeType, Readonly<Record<string, Phrase>>>>;
  readonly all: string;
  readonly any: string;
  readonly everybody: string;
  readonly nobody: string;
  readonly not: (part: string) => string;
  readonly inAudience: (name: string) => string;
  readonly lostAudience: string;
  readonly onlyOf: (kind: 'all' | 'any', part: string) => string;
  readonly quote: (text: string) => string;
  readonly minutes: (minutes: number) => string;
  readonly recurring: (rule: string) => string;
  /** "her own membership tier", of the viewer. */
  readonly ownValue: (attribute: string) => string;
}

const presence = { 'has-value': { verb: 'has a value' }, 'has-no-value': { verb: 'has no value' } };
const oneOf = { 'is-one-of': { verb: 'is', joiner: 'or' }, 'is-none-of': { verb: 'is not', joiner: 'or' } };

export const english: Phrasebook = {
  locale: 'en-GB',
  tests: {
    'yes-no': { 'is-yes': { verb: 'is yes' }, 'is-no': { verb: 'is no' }, ...presence },
    choice: {
      ...oneOf,
      'at-least': { verb: 'is at least' },
      'at-most': { verb: 'is at most' },
      between: { verb: 'is from', joiner: 'to' },
      ...presence,
    },
    set: {
      'includes-any': { verb: 'include', joiner: 'or' },
      'includes-all': { verb: 'include', joiner: 'and' },
      'includes-none': { verb: 'do not include', joiner: 'or' },
      'includes-own': { verb: 'include' },
      ...presence,
    },
    number: {
      equals: { verb: 'is exactly' },
      'at-least': { verb: 'is at least' },
      'at-most': { verb: 'is at most' },
      'more-than': { verb: 'is more than' },
      'fewer-than': { verb: 'is less than' },
      between: { verb: 'is from', joiner: 'to' },
      ...presence,
    },
    date: {
      on: { verb: 'is on' },
      before: { verb: 'is before' },
      after: { verb: 'is after' },
      between: { verb: 'is from', joiner: 'to' },
      'within-last': { verb: 'is within the last', after: 'days' },
      'within-next': { verb: 'is within the next', after: 'days' },
      'anniversary-within': { verb: 'comes round within', after: 'days' },
      ...presence,
    },
    'date-time': {
      before: { verb: 'is before' },
      from: { verb: 'is from', after: 'on' },
      between: { verb: 'is from', joiner: 'until' },
      'within-last': { verb: 'is within the last', after: 'days' },
      'within-next': { verb: 'is within the next', after: 'days' },
      recurs: { verb: 'is in the window that starts', joiner: ',' },
      ...presence,
    },
    time: { between: { verb: 'is from', joiner: 'until' }, ...presence },
    text: {
      ...oneOf,
      contains: { verb: 'contains' },
      'starts-with': { verb: 'starts with' },
      'ends-with': { verb: 'ends with' },
      'same-as': { verb: 'is' },
      ...presence,
    },
    country: { ...oneOf, ...presence },
    address: {
      'in-range': { verb: 'is in', joiner: 'or' },
      'not-in-range': { verb: 'is not in', joiner: 'or' },
      ...presence,
    },
    language: {
      prefers: { verb: 'is first of all', joiner: 'or' },
      accepts: { verb: 'may be', joiner: 'or' },
      'accepts-none': { verb: 'may not be', joiner: 'or' },
      ...presence,
    },
    path: {
      ...oneOf,
      matches: { verb: 'is like', joiner: 'or' },
      'matches-none': { verb: 'is not like', joiner: 'or' },
      ...presence,
    },
  },
  all: ' and ',
  any: ' or ',
  everybody: 'everybody',
  nobody: 'nobody',
  not: (part) => `not (${part})`,
  inAudience: (name) => `in “${name}”`,
  lostAudience: 'an audience that is gone',
  onlyOf: (kind, part) => `${kind} of (${part})`,
  quote: (text) => `“${text.replaceAll('”', '””')}”`,
  minutes: (minutes) =>
    minutes % 1440 === 0
      ? `for ${minutes / 1440} days`
      : minutes % 60 === 0
        ? `for ${minutes / 60} hours`
        : `for ${minutes} minutes`,
  recurring: sayRule,
  ownValue: (attribute) => `the viewer’s own ${attribute}`,
};
