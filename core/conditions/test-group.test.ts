import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { FactReader } from '../attributes/viewer.ts';
import { Membership } from '../deciding/membership.ts';
import { type Condition, not, test } from './condition.ts';

const base = { source: 'contact', description: '' } as const;
const ids = (count: number) => Array.from({ length: count }, (_, at) => ({ id: `c${at}`, label: `c${at}` }));
const attributes: Attribute[] = [
  { ...base, id: 'number', label: 'number', type: 'number' },
  { ...base, id: 'date', label: 'date', type: 'date' },
  { ...base, id: 'tier', label: 'tier', type: 'choice', ordered: true, choices: ids(6) },
  { ...base, id: 'set', label: 'set', type: 'set', choices: ids(8), exclusiveGroups: [] },
  { ...base, id: 'yes', label: 'yes', type: 'yes-no' },
];
const catalogue = new Catalogue(attributes, 'UTC');
const instant = Date.parse('2026-11-24T12:00:00Z');
const day = (away: number) => new Date(instant + away * 86_400_000).toISOString().slice(0, 10);

type Values = { readonly [attribute: string]: unknown };
/** A test with what it means, said in plain terms of the value itself. */
interface Meant {
  readonly condition: Condition;
  readonly holds: (values: Values) => boolean;
}
const small = fc.integer({ min: -3, max: 40 });
const choice = fc.integer({ min: 0, max: 5 });
const members = fc.uniqueArray(fc.integer({ min: 0, max: 7 }), { minLength: 1, maxLength: 3 });
const numberOf = ({ number }: Values): number => (typeof number === 'number' ? number : Number.NaN);
const awayOf = ({ date }: Values): number =>
  typeof date === 'string' ? Math.round((Date.parse(date) - Date.parse(day(0))) / 86_400_000) : Number.NaN;
const placeOf = ({ tier }: Values): number => (typeof tier === 'string' ? Number(tier.slice(1)) : Number.NaN);
const heldIn = ({ set }: Values): readonly string[] => (Array.isArray(set) ? set : []);
const meant: fc.Arbitrary<Meant> = fc.oneof(
  small.map((bound) => ({
    condition: test('number', 'at-least', bound),
    holds: (values: Values) => numberOf(values) >= bound,
  })),
  fc.tuple(small, small).map(([one, two]) => ({
    condition: test('number', 'between', Math.min(one, two), Math.max(one, two)),
    holds: (values: Values) =>
      numberOf(values) >= Math.min(one, two) && numberOf(values) <= Math.max(one, two),
  })),
  small.map((away) => ({
    condition: test('date', 'before', day(away)),
    holds: (values: Values) => awayOf(values) < away,
  })),
  fc.integer({ min: 1, max: 30 }).map((days) => ({
    condition: test('date', 'within-next', days),
    holds: (values: Values) => awayOf(values) >= 0 && awayOf(values) <= days,
  })),
  choice.map((at) => ({
    condition: test('tier', 'at-least', `c${at}`),
    holds: (values: Values) => placeOf(values) >= at,
  })),
  fc.uniqueArray(choice, { minLength: 1, maxLength: 3 }).map((places) => ({
    condition: test('tier', 'is-one-of', ...places.map((at) => `c${at}`)),
    holds: (values: Values) => places.includes(placeOf(values)),
  })),
  members.map((some) => ({
    condition: test('set', 'includes-any', ...some.map((at) => `c${at}`)),
    holds: (values: Values) => some.some((at) => heldIn(values).includes(`c${at}`)),
  })),
  members.map((some) => ({
    condition: test('set', 'includes-all', ...some.map((at) => `c${at}`)),
    holds: (values: Values) => some.every((at) => heldIn(values).includes(`c${at}`)),
  })),
  fc.constant({ condition: test('yes', 'is-yes'), holds: ({ yes }: Values) => yes === true }),
  fc.constant({
    condition: not(test('number', 'has-value')),
    holds: (values: Values) => Number.isNaN(numberOf(values)),
  }),
);
const optional = <Value>(value: fc.Arbitrary<Value>) => fc.option(value, { nil: undefined, freq: 5 });
const person: fc.Arbitrary<Values> = fc.record({
  number: optional(
    fc.oneof(
      small,
      small.map((whole) => whole + 0.5),
    ),
  ),
  date: optional(small.map(day)),
  tier: optional(choice.map((at) => `c${at}`)),
  set: optional(fc.uniqueArray(fc.integer({ min: 0, max: 7 })).map((some) => some.map((at) => `c${at}`))),
  yes: optional(fc.boolean()),
});

describe('tests that are answered together', () => {
  it('are answered as each by itself, however many there are and whenever they were written', () => {
    fc.assert(
      fc.property(
        fc.array(meant, { minLength: 1, maxLength: 60 }),
        fc.array(person, { minLength: 1, maxLength: 6 }),
        fc.nat(60),
        (tests, people, before) => {
          const membership = new Membership(catalogue, []);
          const reader = new FactReader(catalogue);
          const viewers = people.map((contact) => ({
            contact,
            facts: reader.read({ contact, signedIn: false, visit: {}, item: null, instant }),
          }));
          const written = tests.slice(0, before).map(({ condition }) => membership.write(condition));
          // Some are written only after the first were asked.
          for (const { facts } of viewers) {
            membership.lookAs(facts);
            for (const start of written) membership.meets(start);
          }
          written.push(...tests.slice(before).map(({ condition }) => membership.write(condition)));
          for (const { contact, facts } of viewers) {
            membership.lookAs(facts);
            expect(written.map((start) => membership.meets(start))).toEqual(
              tests.map(({ holds }) => holds(contact)),
            );
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});
