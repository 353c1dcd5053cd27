import { describe, expect, it } from 'vitest';
import { attributes, noon } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf, type Viewer } from '../attributes/viewer.ts';
import { all, any, type Condition, inAudience, not, test } from './condition.ts';
import { toSql } from './sql.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');

const columns = { id: 'contacts.id', email: 'contacts.email', values: 'contacts.v', folded: 'contacts.f' };
const sql = (
  condition: Condition,
  more: Partial<Viewer> = {},
  conditionOf: (id: string) => Condition | undefined = () => undefined,
) =>
  toSql(condition, {
    catalogue,
    conditionOf,
    facts: factsOf(catalogue, {
      contact: {},
      signedIn: false,
      visit: {},
      item: null,
      instant: noon,
      ...more,
    }),
    signedIn: 'signed_in',
    columns,
  });

describe('SQL', () => {
  it('binds every value and wraps each test for the third truth value', () => {
    expect(sql(not(test('home', 'is-one-of', 'GB')))).toEqual({
      sql: '(NOT ((BINARY JSON_VALUE(contacts.v, ?) IN (?)) IS TRUE))',
      values: ['$."home"', 'GB'],
      join: '',
      joinValues: [],
    });
    // The visit is the same for all contacts, so that it is answered before the database is asked.
    const phone = test('visit-device', 'is-one-of', 'phone');
    expect(sql(phone).sql).toBe('FALSE');
    expect(sql(phone, { visit: { 'visit-device': 'phone' } }).sql).toBe('TRUE');
  });

  it('compares texts by the bytes of their folded form', () => {
    const own = 'BINARY IFNULL(JSON_VALUE(contacts.f, ?), JSON_VALUE(contacts.v, ?))';
    expect(sql(test('city', 'contains', 'É'))).toMatchObject({
      sql: `((LOCATE(BINARY ?, ${own}) > 0) IS TRUE)`,
      values: ['e', '$."city"', '$."city"'],
    });
    expect(sql(test('city', 'ends-with', 'कु'))).toMatchObject({
      sql: `((RIGHT(${own}, 6) = BINARY ?) IS TRUE)`,
      values: ['$."city"', '$."city"', 'कु'],
    });
    expect(sql(test('email', 'is-one-of', 'Ada@Example.org'))).toMatchObject({
      sql: '((BINARY IFNULL(JSON_VALUE(contacts.f, ?), contacts.email) IN (?)) IS TRUE)',
      values: ['$."email"', 'ada@example.org'],
    });
  });

  it('says of nothing at all and of nothing of any what they are, and knows no audience that there is not', () => {
    expect([sql(all()).sql, sql(any()).sql]).toEqual(['TRUE', 'FALSE']);
    expect(sql(not(all(test('vip', 'is-yes'), test('city', 'has-value')))).sql).toMatch(
      /^\(NOT \(.* AND .*\)\)$/,
    );
    expect(sql(any(test('vip', 'is-yes'), test('city', 'has-value'))).sql).toMatch(/^\(.* OR .*\)$/);
    expect(() => sql(inAudience('gone'), {}, () => undefined)).toThrow('no audience “gone”');
  });

  it('works an audience out once that is reached in several ways, so that it grows with the conditions', () => {
    // Each of 30 names the one before twice: written out that is 2^30 tests.
    const chain = (id: string): Condition | undefined => {
      const level = Number(id);
      if (level === 0) return all(test('visits', 'at-least', 3), test('vip', 'is-yes'));
      return any(all(inAudience(`${level - 1}`), test('plan', 'has-value')), not(inAudience(`${level - 1}`)));
    };
    const made = sql(inAudience('30'), {}, chain);
    expect(made.sql.length + made.join.length).toBeLessThan(6000);
    expect(made.values.length + made.joinValues.length).toBeLessThan(20);
    expect(made.join).toMatch(/^ JOIN \(SELECT before29\.\*/);
  });
});
