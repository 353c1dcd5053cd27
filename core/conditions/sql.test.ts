import { describe, expect, it } from 'vitest';
import { attributes, noon } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf, type Viewer } from '../attributes/viewer.ts';
import { type Condition, not, test } from './condition.ts';
import { toSql } from './sql.ts';

const catalogue = new Catalogue(attributes, 'Europe/London');

describe('SQL', () => {
  it('binds every value and wraps each test for the third truth value', () => {
    const sql = (condition: Condition, more: Partial<Viewer> = {}) =>
      toSql(condition, {
        catalogue,
        conditionOf: () => undefined,
        facts: factsOf(catalogue, {
          contact: {},
          signedIn: false,
          visit: {},
          item: null,
          instant: noon,
          ...more,
        }),
        signedIn: 'signed_in',
        column: 'v',
      });
    expect(sql(not(test('city', 'is-one-of', "O'Brien")))).toEqual({
      sql: '(NOT ((BINARY JSON_VALUE(v, ?) IN (?)) IS TRUE))',
      values: ['$."city"', "O'Brien"],
    });
    // The visit is the same for all contacts, so that it is answered before the database is asked.
    const phone = test('visit-device', 'is-one-of', 'phone');
    expect(sql(phone).sql).toBe('FALSE');
    expect(sql(phone, { visit: { 'visit-device': 'phone' } }).sql).toBe('TRUE');
  });
});
