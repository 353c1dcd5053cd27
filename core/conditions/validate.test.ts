import { describe, expect, it } from 'vitest';
import { attributes } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { all, any, type Condition, conditionSchema, inAudience, not, test } from './condition.ts';
import { validate } from './validate.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');
const surroundings = { catalogue, hasAudience: () => true };

describe('errors', () => {
  it.each([
    [test('gone', 'has-value'), 'attribute', 'an attribute that is gone'],
    [test('tier', 'contains', 'x'), 'op', 'is no test for tier'],
    [test('plan', 'at-least', 'print'), 'op', 'is no test for plan'],
    [test('tier', 'is-one-of', 'dawn'), 'values.0', 'is not a choice of tier'],
    [test('tier', 'is-one-of'), 'values', 'choose at least one'],
    [test('visits', 'at-least', 'three'), 'values.0', 'is not a number'],
    [test('visits', 'at-least', Number.NaN), 'values.0', 'is not a number'],
    [test('visits', 'between', 3, 2), 'values', 'ends before it starts'],
    [test('tier', 'between', 'midnight', 'dusk'), 'values', 'ends before it starts'],
    [test('renewal', 'on', '2026-02-30'), 'values.0', 'is not a date'],
    [test('renewal', 'within-next', 1.5), 'values.0', 'number of days'],
    [test('vip', 'is-yes', 1), 'values', 'takes no value'],
    [test('city', 'contains', ''), 'values.0', 'is not a text'],
    [test('visits', 'at-least', Number.POSITIVE_INFINITY), 'values.0', 'is not a number'],
    [test('renewal', 'on', '10000-01-01'), 'values.0', 'is not a date'],
    [test('renewal', 'within-next', 40_000), 'values.0', 'number of days'],
    [test('signed-up', 'before', '2026-11-24'), 'values.0', 'is not a date and time'],
    [test('signed-up', 'between', '2026-11-24T12:00', '2026-11-24T12:00'), 'values', 'ends when it starts'],
    [test('call-at', 'between', '24:00', '06:00'), 'values.0', 'is not a time of day'],
    [test('call-at', 'between', '06:00', '06:00'), 'values', 'ends when it starts'],
    [test('home', 'is-one-of', 'UK'), 'values.0', 'two-letter code'],
    [test('last-address', 'in-range', '203.0.113.7/24'), 'values.0', 'range of addresses'],
    [test('last-address', 'in-range', '203.0.113.0/33'), 'values.0', 'range of addresses'],
    [test('speaks', 'accepts', 'deutsch!'), 'values.0', 'language tag'],
    [test('last-page', 'matches', 'guides'), 'values.0', 'pattern of a path'],
    [test('moment', 'recurs', '2026-11-27T20:00', 120), 'values', '3 values are needed'],
    [
      test('moment', 'recurs', '2026-11-27T20:00', 120, 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30'),
      'values.0',
      'The rule never occurs from its start date on',
    ],
    [
      test('moment', 'recurs', '2026-11-24T20:00', 120, 'FREQ=WEEKLY;BYDAY=FR'),
      'values.0',
      'The rule does not occur on its start date; the first time after that is Friday, 27 November 2026',
    ],
    [
      test('moment', 'recurs', '2026-11-24T20:00', 120, 'FREQ=DAILY;COUNT=0'),
      'values.2',
      'has COUNT=0; it can be 1 to 1000',
    ],
    [test('visit-address', 'in-range', '::ffff:10.0.0.0/8'), 'values.0', 'is not a range of addresses'],
    [test('moment', 'recurs', '2026-11-27T20:00', 120, 'FREQ=SECONDLY'), 'values.2', 'must recur by day'],
    [
      test('moment', 'recurs', '2026-11-27T20:00', 120, 'every Friday'),
      'values.2',
      'is not a recurrence rule',
    ],
    [
      test('moment', 'recurs', '2026-11-27T20:00', 120, 'FREQ=DAILY;INTERVAL=0'),
      'values.2',
      'has INTERVAL=0; it can be 1 to 10000',
    ],
    [test('moment', 'has-value'), 'op', 'is no test for date and time'],
    [test('author', 'same-as', 'visit-region'), 'values.0', 'is not an attribute of contacts'],
    [test('author', 'same-as', 'tier'), 'values.0', 'can’t be compared'],
    [test('city', 'same-as', 'city'), 'op', 'is no test for city'],
  ])('%j is refused at %s', (condition, path, message) => {
    const [problem] = validate(condition, surroundings);
    expect(problem?.path).toBe(path);
    expect(problem?.message).toContain(message);
  });

  it('leads to the part that is wrong', () => {
    const condition = all(test('vip', 'is-yes'), not(any(test('city', 'has-value'), inAudience('x'))));
    const problems = validate(condition, { catalogue, hasAudience: () => false });
    expect(problems).toEqual([
      { path: 'of.1.of.of.1.audience', message: 'names an audience that no longer exists' },
    ]);
  });

  it('refuses nesting of depth 10,000 without a crash', () => {
    let deep: Condition = test('vip', 'is-yes');
    for (let depth = 0; depth < 10_000; depth++) deep = { kind: 'not', of: deep };
    expect(conditionSchema.safeParse(deep).success).toBe(false);
    expect(validate(deep, surroundings)[0]?.message).toContain('nested deeper than 100');
  });

  it('refuses more parts than a person could mean', () => {
    const of = Array.from({ length: 30_000 }, () => test('vip', 'is-yes'));
    expect(conditionSchema.safeParse({ kind: 'all', of }).success).toBe(false);
  });
});
