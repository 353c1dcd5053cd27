import { celEnv, isCelError, parse, plan as planCel } from '@bufbuild/cel';
import { timestampFromDate } from '@bufbuild/protobuf/wkt';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { attributes, randomCondition, randomValues } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { type Facts, factsOf } from '../attributes/viewer.ts';
import { toCel } from './cel.ts';
import { fold, plan } from './check.ts';
import { all, any, type Condition, inAudience, not, test } from './condition.ts';

const catalogue = new Catalogue(attributes);
const instant = Date.parse('2026-11-24T12:00:00Z');
const dayLength = 86_400_000;

/** The variables of an expression for a viewer. */
function activation(facts: Facts, audience: Record<string, boolean>) {
  const it = new Map<string, unknown>();
  const folded = new Map<string, string>();
  for (const [index, attribute] of catalogue.attributes.entries()) {
    const fact = facts.values[index];
    if (fact === undefined) continue;
    const isDate = attribute.type === 'date' && typeof fact === 'number';
    it.set(attribute.id, isDate ? timestampFromDate(new Date(fact * dayLength)) : fact);
    if (attribute.type === 'text' && typeof fact === 'string') folded.set(attribute.id, fold(fact));
  }
  const today = timestampFromDate(new Date(facts.today * dayLength));
  return { it, folded, today, audience: new Map(Object.entries(audience)) };
}

function byCel(condition: Condition, facts: Facts, audience: Record<string, boolean> = {}): unknown {
  const expression = toCel(condition, catalogue);
  // biome-ignore lint/suspicious/noExplicitAny: the library's input type does not know plain maps of mixed values
  const result = planCel(celEnv(), parse(expression))(activation(facts, audience) as any);
  if (isCelError(result)) throw new Error(`${expression}: ${result.message}`);
  return result;
}

const factsFor = (contact: Record<string, unknown> | null, signedIn = false) =>
  factsOf(catalogue, { contact, signedIn, device: 'computer', instant }, 'UTC');

// @bufbuild/cel as an independent evaluator of the exported expression.
it('evaluates to the same outcome by the official library, for any condition and viewer', () => {
  fc.assert(
    fc.property(randomCondition, fc.option(randomValues), fc.boolean(), (condition, values, signedIn) => {
      const facts = factsFor(values, signedIn);
      const own = plan(condition, catalogue, () => undefined)(facts, () => false);
      expect(byCel(condition, facts)).toBe(own);
    }),
    { numRuns: 500 },
  );
});

it('reads as written', () => {
  const condition = all(
    test('tier', 'is-one-of', 'dusk', 'twilight'),
    any(test('visits', 'at-least', 3), test('renewal', 'within-next', 30)),
    not(inAudience('staff')),
  );
  expect(toCel(condition, catalogue)).toBe(
    '("tier" in it && it["tier"] in ["dusk", "twilight"]) && (("visits" in it && it["visits"] >= 3.0) || ("renewal" in it && it["renewal"] >= today && it["renewal"] <= today + duration("720h"))) && (!(audience["staff"]))',
  );
  expect(byCel(condition, factsFor({ tier: 'dusk', visits: 4 }), { staff: false })).toBe(true);
  expect(byCel(condition, factsFor({ tier: 'dusk', visits: 4 }), { staff: true })).toBe(false);
});

it('keeps any text whole, quotes, line breaks and control characters included', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', minLength: 1 }), (city) => {
      const facts = factsFor({ city });
      expect(byCel(test('city', 'is-one-of', city), facts)).toBe(true);
      expect(byCel(test('city', 'is-one-of', `${city}x`), facts)).toBe(false);
    }),
  );
});

it('takes an empty all as true and an empty any as false', () => {
  expect(byCel(all(), factsFor(null))).toBe(true);
  expect(byCel(any(), factsFor(null))).toBe(false);
});
