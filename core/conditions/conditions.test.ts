import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, randomCondition, randomValues } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import { factsOf } from '../attributes/viewer.ts';
import { fold, plan } from './check.ts';
import { all, any, type Condition, conditionSchema, inAudience, not, type Test, test } from './condition.ts';
import { explain } from './explain.ts';
import { operatorsFor } from './operators.ts';
import { toSql } from './sql.ts';
import { validate } from './validate.ts';
import { say } from './words.ts';

const catalogue = new Catalogue(attributes);
const noon = Date.parse('2026-11-24T12:00:00Z');
const surroundings = { catalogue, hasAudience: () => true };

function facts(values: Record<string, unknown> | null, signedIn = false): Facts {
  return factsOf(catalogue, { contact: values, signedIn, device: 'computer', instant: noon }, 'UTC');
}

function holds(condition: Condition, values: Record<string, unknown> | null, signedIn = false): boolean {
  return plan(condition, catalogue, () => undefined)(facts(values, signedIn), () => false);
}

// Each operator with values it must accept, values it must refuse, and the outcome for a missing value.
const cases: [Test, Record<string, unknown>[], Record<string, unknown>[], boolean][] = [
  [test('tier', 'is-one-of', 'dusk', 'midnight'), [{ tier: 'dusk' }], [{ tier: 'twilight' }], false],
  [test('tier', 'is-none-of', 'dusk'), [{ tier: 'twilight' }], [{ tier: 'dusk' }], true],
  [
    test('tier', 'at-least', 'twilight'),
    [{ tier: 'twilight' }, { tier: 'midnight' }],
    [{ tier: 'dusk' }],
    false,
  ],
  [
    test('tier', 'at-most', 'twilight'),
    [{ tier: 'dusk' }, { tier: 'twilight' }],
    [{ tier: 'midnight' }],
    false,
  ],
  [
    test('tier', 'between', 'dusk', 'twilight'),
    [{ tier: 'dusk' }, { tier: 'twilight' }],
    [{ tier: 'midnight' }],
    false,
  ],
  [test('tags', 'includes-any', 'a', 'b'), [{ tags: ['b', 'c'] }], [{ tags: ['c'] }], false],
  [test('tags', 'includes-all', 'a', 'b'), [{ tags: ['c', 'b', 'a'] }], [{ tags: ['a'] }], false],
  [test('tags', 'includes-none', 'a', 'b'), [{ tags: ['c'] }], [{ tags: ['a', 'c'] }], true],
  [test('visits', 'equals', 3), [{ visits: 3 }], [{ visits: 4 }], false],
  [test('visits', 'at-least', 3), [{ visits: 3 }], [{ visits: 2.9 }], false],
  [test('visits', 'at-most', 3), [{ visits: 3 }, { visits: -1 }], [{ visits: 3.1 }], false],
  [test('visits', 'more-than', 3), [{ visits: 3.1 }], [{ visits: 3 }], false],
  [test('visits', 'fewer-than', 3), [{ visits: 2.9 }], [{ visits: 3 }], false],
  [test('visits', 'between', 2, 3), [{ visits: 2 }, { visits: 3 }], [{ visits: 1 }, { visits: 4 }], false],
  [test('renewal', 'on', '2026-12-12'), [{ renewal: '2026-12-12' }], [{ renewal: '2026-12-13' }], false],
  [test('renewal', 'before', '2026-12-12'), [{ renewal: '2026-12-11' }], [{ renewal: '2026-12-12' }], false],
  [test('renewal', 'after', '2026-12-12'), [{ renewal: '2026-12-13' }], [{ renewal: '2026-12-12' }], false],
  [
    test('renewal', 'between', '2026-12-01', '2026-12-12'),
    [{ renewal: '2026-12-01' }, { renewal: '2026-12-12' }],
    [{ renewal: '2026-11-30' }, { renewal: '2026-12-13' }],
    false,
  ],
  [
    test('renewal', 'within-next', 7),
    [{ renewal: '2026-11-24' }, { renewal: '2026-12-01' }],
    [{ renewal: '2026-11-23' }, { renewal: '2026-12-02' }],
    false,
  ],
  [
    test('renewal', 'within-last', 7),
    [{ renewal: '2026-11-24' }, { renewal: '2026-11-17' }],
    [{ renewal: '2026-11-25' }, { renewal: '2026-11-16' }],
    false,
  ],
  [test('city', 'is-one-of', 'Larkhaven'), [{ city: 'Larkhaven' }], [{ city: 'larkhaven' }], false],
  [test('city', 'is-none-of', 'Larkhaven'), [{ city: 'Tarnley' }], [{ city: 'Larkhaven' }], true],
  [test('city', 'contains', 'HÁV'), [{ city: 'Larkhaven' }], [{ city: 'Tarnley' }], false],
  [test('city', 'starts-with', 'lark'), [{ city: 'Larkhaven' }], [{ city: 'Old Larkhaven' }], false],
  [test('city', 'ends-with', 'HAVEN'), [{ city: 'Larkhaven' }], [{ city: 'Larkhaven West' }], false],
  [test('vip', 'is-yes'), [{ vip: true }], [{ vip: false }], false],
  [test('vip', 'is-no'), [{ vip: false }], [{ vip: true }], false],
  [test('city', 'has-value'), [{ city: 'x' }], [{ city: '' }], false],
  [test('tags', 'has-no-value'), [{ tags: [] }], [{ tags: ['a'] }], true],
];

describe('tests', () => {
  it.each(cases)('%j', (condition, inside, outside, missing) => {
    for (const values of inside) expect(holds(condition, values)).toBe(true);
    for (const values of outside) expect(holds(condition, values)).toBe(false);
    expect(holds(condition, {})).toBe(missing);
    expect(holds(condition, null)).toBe(missing);
    expect(validate(condition, surroundings)).toEqual([]);
  });

  it('has a case above for every operator of every type', () => {
    const covered = new Set(cases.map(([{ attribute, op }]) => `${catalogue.get(attribute)?.type} ${op}`));
    const presence = ['has-value', 'has-no-value'];
    const wanted = attributes.flatMap((attribute) =>
      operatorsFor(attribute).flatMap(([op]) => (presence.includes(op) ? [] : [`${attribute.type} ${op}`])),
    );
    expect(wanted.filter((name) => !covered.has(name))).toEqual([]);
    expect(cases.map(([{ op }]) => op)).toEqual(expect.arrayContaining(presence));
  });

  it('knows who is signed in', () => {
    expect(holds(test('signed-in', 'is-yes'), { tier: 'dusk' }, true)).toBe(true);
    expect(holds(test('signed-in', 'is-yes'), { tier: 'dusk' }, false)).toBe(false);
    expect(holds(test('signed-in', 'is-no'), null)).toBe(true);
  });

  it('folds case and accents', () => {
    expect(fold('ÉLISE Nuño')).toBe('elise nuno');
  });
});

describe('groups', () => {
  it('takes an empty all as true and an empty any as false', () => {
    expect(holds(all(), {})).toBe(true);
    expect(holds(any(), {})).toBe(false);
  });

  it('takes "not Midnight" to include people without a tier and visitors who are signed out', () => {
    const condition = not(test('tier', 'is-one-of', 'midnight'));
    expect(holds(condition, {})).toBe(true);
    expect(holds(condition, null)).toBe(true);
    expect(holds(condition, { tier: 'dusk' })).toBe(true);
    expect(holds(condition, { tier: 'midnight' })).toBe(false);
  });
});

describe('for any condition and viewer', () => {
  it('not is the exact complement', () => {
    fc.assert(
      fc.property(randomCondition, fc.option(randomValues), (condition, values) => {
        expect(holds(not(condition), values)).toBe(!holds(condition, values));
      }),
    );
  });

  it('the explanation says what evaluation finds', () => {
    fc.assert(
      fc.property(randomCondition, fc.option(randomValues), (condition, values) => {
        const explained = explain(condition, facts(values), catalogue, () => undefined);
        expect(explained.holds).toBe(holds(condition, values));
      }),
    );
  });

  it('a complement operator is the complement of its test', () => {
    fc.assert(
      fc.property(randomValues, fc.subarray(['a', 'b', 'c'], { minLength: 1 }), (values, tags) => {
        expect(holds(test('tags', 'includes-none', ...tags), values)).toBe(
          !holds(test('tags', 'includes-any', ...tags), values),
        );
      }),
    );
  });

  it('says something, validates, and survives its schema', () => {
    fc.assert(
      fc.property(randomCondition, (condition) => {
        expect(say(condition, catalogue, () => undefined)).not.toBe('');
        expect(validate(condition, surroundings)).toEqual([]);
        expect(conditionSchema.parse(JSON.parse(JSON.stringify(condition)))).toEqual(condition);
      }),
    );
  });
});

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
  });

  it('refuses more parts than a person could mean', () => {
    const of = Array.from({ length: 30_000 }, () => test('vip', 'is-yes'));
    expect(conditionSchema.safeParse({ kind: 'all', of }).success).toBe(false);
  });
});

describe('words', () => {
  it('reads as a sentence', () => {
    const condition = all(
      test('tier', 'is-one-of', 'dusk', 'twilight'),
      any(test('visits', 'at-least', 3), test('tags', 'includes-all', 'a', 'b')),
      not(inAudience('staff')),
    );
    expect(say(condition, catalogue, (id) => id)).toBe(
      'tier is dusk or twilight and (visits is at least 3 or tags include a and b) and not (in “staff”)',
    );
    expect(say(test('renewal', 'within-next', 30), catalogue, () => '')).toBe(
      'renewal is within the next 30 days',
    );
    expect(say(all(), catalogue, () => '')).toBe('everybody');
  });
});

describe('SQL', () => {
  it('binds every value and wraps each test for the third truth value', () => {
    const { sql, values } = toSql(not(test('city', 'is-one-of', "O'Brien")), {
      catalogue,
      conditionOf: () => undefined,
      today: 0,
      signedIn: 'signed_in',
      column: 'v',
    });
    expect(sql).toBe('(NOT ((BINARY JSON_VALUE(v, ?) IN (?)) IS TRUE))');
    expect(values).toEqual(['$."city"', "O'Brien"]);
  });
});
