import { CelScalar, celEnv, celFunc, isCelError, objectType, parse, plan as planCel } from '@bufbuild/cel';
import { getConformanceSuite } from '@bufbuild/cel-spec/testdata/tests.js';
import { type Timestamp, TimestampSchema, timestampDate, timestampFromDate } from '@bufbuild/protobuf/wkt';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { attributes, noon, randomCondition, randomViewer } from '../../test/random-conditions.ts';
import { dayLength, instantOf, localDay, readLocalTime, timeText } from '../attributes/calendar.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { lookup } from '../attributes/languages.ts';
import { addressNumber, contains, readNetwork } from '../attributes/networks.ts';
import { matchesPattern, pathPattern } from '../attributes/patterns.ts';
import { fold } from '../attributes/text-folding.ts';
import { type Facts, factsOf, type Viewer } from '../attributes/viewer.ts';
import { celFunctions, celName, celOrder, toCel } from './cel.ts';
import { fromCel } from './cel-read.ts';
import { all, any, type Condition, inAudience, not, test } from './condition.ts';
import { compile } from './evaluate.ts';
import { anniversaryDays } from './meaning.ts';
import { Recurrence } from './recurrence.ts';

const zone = 'Europe/London';
const catalogue = new Catalogue(attributes, zone);
const { STRING, BOOL, DYN, INT } = CelScalar;
const TIME = objectType(TimestampSchema);

const strings = (list: unknown): string[] => Array.from(list as Iterable<string>, String);
const instantIn = (time: unknown): number => timestampDate(message(time)).getTime();
/** The library hands a timestamp over wrapped for reflection. */
function message(time: unknown): Timestamp {
  return typeof time === 'object' && time !== null && 'message' in time
    ? (time.message as Timestamp)
    : (time as Timestamp);
}
const day = (number: number) => timestampFromDate(new Date(number * dayLength));

/** The functions that expressions use beside the standard ones, for the official library. */
function functions(today: number) {
  return [
    celFunc('fold', [STRING], STRING, (text) => fold(text)),
    celFunc('local', [STRING], TIME, (text) => {
      const local = readLocalTime(text);
      if (!local) throw new Error(text);
      return timestampFromDate(new Date(instantOf(local, zone)));
    }),
    celFunc('day', [TIME], TIME, (time) => day(localDay(instantIn(time), zone))),
    celFunc('comesRound', [TIME, INT], BOOL, (time, days) =>
      anniversaryDays(today, Number(days)).has(new Date(instantIn(time)).toISOString().slice(5, 10)),
    ),
    celFunc('recurs', [TIME, STRING, INT, STRING], BOOL, (time, start, minutes, rule) =>
      new Recurrence(start, Number(minutes), rule, zone).covers(instantIn(time)),
    ),
    celFunc('inNetwork', [STRING, DYN], BOOL, (address, networks) =>
      contains(
        strings(networks).flatMap((text) => readNetwork(text) ?? []),
        addressNumber(address),
      ),
    ),
    celFunc(
      'prefers',
      [DYN, DYN],
      BOOL,
      (own, tags) => lookup(strings(own).slice(0, 1), strings(tags)) !== undefined,
    ),
    celFunc('accepts', [DYN, DYN], BOOL, (own, tags) => lookup(strings(own), strings(tags)) !== undefined),
    celFunc('like', [STRING, DYN], BOOL, (path, patterns) =>
      strings(patterns).some((pattern) => matchesPattern(pathPattern(pattern), path)),
    ),
  ];
}

/** The variables of an expression for a viewer. */
function activation(facts: Facts, audience: Record<string, boolean>) {
  const it = new Map<string, unknown>();
  for (const [index, attribute] of catalogue.attributes.entries()) {
    const fact = facts.at(index);
    if (fact === undefined) continue;
    const value =
      typeof fact !== 'number' || attribute.type === 'number'
        ? fact
        : attribute.type === 'date'
          ? day(fact)
          : attribute.type === 'time'
            ? timeText(fact)
            : timestampFromDate(new Date(fact));
    it.set(celName(attribute.id), value);
  }
  const order = new Map(
    [...celOrder(catalogue)].map(([name, places]) => [
      name,
      new Map([...places].map(([id, place]) => [id, BigInt(place)])),
    ]),
  );
  return { it, order, today: day(facts.today), audience: new Map(Object.entries(audience)) };
}

function evaluate(expression: string, facts: Facts, audience: Record<string, boolean> = {}): unknown {
  const env = celEnv({ funcs: functions(facts.today) });
  // biome-ignore lint/suspicious/noExplicitAny: the library's input type does not know plain maps of mixed values
  const result = planCel(env, parse(expression))(activation(facts, audience) as any);
  if (isCelError(result)) throw new Error(`${expression}: ${result.message}`);
  return result;
}

function byCel(condition: Condition, facts: Facts, audience: Record<string, boolean> = {}): unknown {
  return evaluate(toCel(condition, catalogue), facts, audience);
}

const factsFor = (contact: Record<string, unknown> | null, more: Partial<Viewer> = {}) =>
  factsOf(catalogue, { contact, signedIn: false, visit: {}, item: null, instant: noon, ...more });

function holds(condition: Condition, facts: Facts): boolean {
  return compile(condition, catalogue)(facts);
}

function read(text: string): Condition {
  const found = fromCel(text, {
    catalogue,
    audienceOf: (key) => (key === 'staff' ? 'id-of-staff' : undefined),
  });
  if (!found.ok) throw new Error(`${text}: ${found.message} at ${found.at}`);
  return found.condition;
}

function refused(text: string): { at: number; message: string } {
  const found = fromCel(text, { catalogue, audienceOf: () => undefined });
  if (found.ok) throw new Error(`${text} was read`);
  return found;
}

describe('writing', () => {
  // @bufbuild/cel as an independent evaluator of the exported expression.
  it('evaluates to the same outcome by the official library, for any condition and viewer', () => {
    fc.assert(
      fc.property(randomCondition, randomViewer, (condition, viewer) => {
        const facts = factsOf(catalogue, viewer);
        expect(byCel(condition, facts)).toBe(holds(condition, facts));
      }),
      { numRuns: 800 },
    );
  });

  it('reads as written', () => {
    const condition = all(
      test('tier', 'is-one-of', 'dusk', 'twilight'),
      any(test('visits', 'at-least', 3), test('renewal', 'within-next', 30)),
      not(inAudience('staff')),
    );
    expect(toCel(condition, catalogue)).toBe(
      '(has(it.tier) && it.tier in ["dusk", "twilight"]) && ((has(it.visits) && it.visits >= 3.0) || (has(it.renewal) && it.renewal >= today && it.renewal <= today + duration("720h"))) && !(audience["staff"])',
    );
    expect(byCel(condition, factsFor({ tier: 'dusk', visits: 4 }), { staff: false })).toBe(true);
    expect(byCel(condition, factsFor({ tier: 'dusk', visits: 4 }), { staff: true })).toBe(false);
    for (const [op, joint] of [
      ['includes-any', '||'],
      ['includes-all', '&&'],
    ] as const)
      expect(toCel(test('tags', op, 'a', 'b'), catalogue)).toBe(
        `has(it.tags) && ("a" in it.tags ${joint} "b" in it.tags)`,
      );
    expect(toCel(test('signed-up', 'from', '2026-12-24T18:00'), catalogue)).toBe(
      'has(it.signed_up) && it.signed_up >= local("2026-12-24T18:00")',
    );
  });

  it('keeps any text whole, quotes, line breaks and control characters included', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', minLength: 1 }), (city) => {
        const facts = factsFor({ city });
        expect(byCel(test('city', 'is-one-of', city), facts)).toBe(true);
        expect(byCel(test('city', 'is-one-of', `${city}x`), facts)).toBe(false);
        expect(read(toCel(test('city', 'is-one-of', city), catalogue))).toEqual(
          test('city', 'is-one-of', city),
        );
      }),
    );
  });

  it('takes an empty all as true and an empty any as false', () => {
    expect(byCel(all(), factsFor(null))).toBe(true);
    expect(byCel(any(), factsFor(null))).toBe(false);
  });

  it('uses no function that is not listed, and lists none that is not there', () => {
    const there = functions(0).map(({ name }) => name);
    expect(Object.keys(celFunctions).sort()).toEqual([...there].sort());
  });
});

describe('reading', () => {
  it.each<[string, Condition]>([
    ['it.visits >= 3 && it.visits <= 5', test('visits', 'between', 3, 5)],
    ['it.visits <= 5 && it.visits >= 3', test('visits', 'between', 3, 5)],
    ['it.visits >= 3 && it.visits <= 3', test('visits', 'between', 3, 3)],
    ['it.visits >= 3 && it.visits < 5', all(test('visits', 'at-least', 3), test('visits', 'fewer-than', 5))],
    ['it.visits >= 5 && it.visits <= 3', all(test('visits', 'at-least', 5), test('visits', 'at-most', 3))],
    [
      'it.signed_up >= local("2026-12-01T00:00") && it.signed_up < local("2026-12-24T18:00")',
      test('signed-up', 'between', '2026-12-01T00:00', '2026-12-24T18:00'),
    ],
    ['it.renewal >= today && it.renewal <= today + duration("720h")', test('renewal', 'within-next', 30)],
    ['it.renewal >= today - duration("720h") && it.renewal <= today', test('renewal', 'within-last', 30)],
  ])('reads the two ends %s as one test where they are one', (text, condition) => {
    expect(read(text)).toEqual(condition);
  });

  it('never reads two ends as more than they say', () => {
    const viewers = fc.sample(randomViewer, { numRuns: 40, seed: 3 });
    const ends: [string, string[]][] = [
      ['it.visits', ['1.0', '2.0', '3.0']],
      ['it.renewal', ['today', 'today + duration("240h")', 'today - duration("240h")', 'date("2026-12-01")']],
      ['it.tier', ['"dusk"', '"twilight"', '"midnight"']],
      ['it.signed_up', ['local("2026-12-01T00:00")', 'local("2026-11-01T00:00")']],
    ];
    for (const [name, values] of ends)
      for (const low of values)
        for (const high of values)
          for (const [one, two] of [
            ['>=', '<='],
            ['>=', '<'],
          ]) {
            const found = fromCel(`${name} ${one} ${low} && ${name} ${two} ${high}`, {
              catalogue,
              audienceOf: () => undefined,
            });
            if (!found.ok) continue;
            const parts = [`${name} ${one} ${low}`, `${name} ${two} ${high}`].map((part) =>
              fromCel(part, { catalogue, audienceOf: () => undefined }),
            );
            for (const viewer of viewers) {
              const facts = factsOf(catalogue, viewer);
              const apart = parts.every((part) => part.ok && holds(part.condition, facts));
              if (parts.every((part) => part.ok)) expect(holds(found.condition, facts)).toBe(apart);
            }
          }
  });

  it('gives back what was written, in meaning and to the letter the second time', () => {
    fc.assert(
      fc.property(randomCondition, fc.array(randomViewer, { maxLength: 5 }), (condition, viewers) => {
        const back = read(toCel(condition, catalogue));
        for (const viewer of viewers) {
          const facts = factsOf(catalogue, viewer);
          expect(holds(back, facts)).toBe(holds(condition, facts));
        }
        const again = toCel(back, catalogue);
        expect(toCel(read(again), catalogue)).toBe(again);
      }),
      { numRuns: 800 },
    );
  });

  it.each<[string, Condition]>([
    ['it.visits >= 3', test('visits', 'at-least', 3)],
    ['3.5 < it.visits', test('visits', 'more-than', 3.5)],
    ['it.visits >= -1 && it.visits <= 4', test('visits', 'between', -1, 4)],
    ['it.city == "Larkhaven"', test('city', 'is-one-of', 'Larkhaven')],
    ['it.city != "Larkhaven"', test('city', 'is-none-of', 'Larkhaven')],
    ['!has(it.city)', test('city', 'has-no-value')],
    ['it.vip', test('vip', 'is-yes')],
    ['it.vip == false', test('vip', 'is-no')],
    ['"a" in it.tags && "b" in it.tags', test('tags', 'includes-all', 'a', 'b')],
    ['it.tier in it.tiers_for', test('tiers-for', 'includes-own', 'tier')],
    ['order.tier[it.tier] >= order.tier["twilight"]', test('tier', 'at-least', 'twilight')],
    ['it.call_at >= "22:00" || it.call_at < "06:00"', test('call-at', 'between', '22:00', '06:00')],
    ['it.renewal == timestamp("2026-12-01T00:00:00Z")', test('renewal', 'on', '2026-12-01')],
    ['audience["staff"] || it.vip', any(inAudience('id-of-staff'), test('vip', 'is-yes'))],
    ["it.tier in ['dusk'] // a note", test('tier', 'is-one-of', 'dusk')],
    [
      'it.vip && (it.visits > 1.0 || it.visits == 0.0) && it.city.contains("x")',
      all(
        test('vip', 'is-yes'),
        any(test('visits', 'more-than', 1), test('visits', 'equals', 0)),
        test('city', 'contains', 'x'),
      ),
    ],
  ])('takes %s', (text, condition) => {
    expect(read(text)).toEqual(condition);
  });

  it.each<[string, string, number, string]>([
    ['nothing', '', 0, 'nothing is written'],
    ['half an expression', 'it.vip &&', 7, 'can’t be read'],
    ['an unknown name', 'it.vip && it.height > 3.0', 12, 'no attribute “height”'],
    ['a value of another type', 'it.vip && it.visits > "three"', 22, 'is not a number'],
    ['a choice that is not there', 'it.tier == "dawn"', 8, 'not a choice'],
    ['an audience that is not there', 'audience["gone"]', 9, 'no audience “gone”'],
    ['a regular expression', 'it.city.matches("(a+)+$")', 7, 'is not part of a condition'],
    ['arithmetic', 'it.visits + 1.0 > 3.0', 15, 'compares nothing'],
    ['a function of the standard', 'size(it.tags) > 1', 13, 'compares nothing'],
    ['half a range from today', 'it.renewal <= today', 11, 'needs both ends'],
    ['a number by itself', 'it.visits', 2, 'is not yes or no'],
    [
      'a choice between expressions',
      'it.vip ? it.vip : it.vip',
      0,
      'is not something that a condition can use',
    ],
    ['a text by itself', '"yes"', 0, 'something that holds or not'],
    ['10,000 nested lists', '['.repeat(10_000), 200, 'nested deeper'],
    ['10,000 nested nots', `${'!('.repeat(10_000)}it.vip`, 200, 'nested deeper'],
    ['more text than anybody means', 'it.vip && '.repeat(11_000), 100_000, 'longer than'],
  ])('refuses %s at its place', (_name, text, at, message) => {
    const found = refused(text);
    expect(found.message).toContain(message);
    expect(found.at).toBe(at);
  });

  // The conformance cases of the CEL specification, as shipped in @bufbuild/cel-spec: what is accepted here means what
  // the specification says, everything else is refused with a place inside the text, and nothing crashes.
  it('meets every conformance case of the specification without a crash, and agrees where it accepts', () => {
    let [accepted, refusals] = [0, 0];
    const visit = (suite: ReturnType<typeof getConformanceSuite>): void => {
      for (const inner of suite.suites) visit(inner);
      for (const { original } of suite.tests) {
        const found = fromCel(original.expr, { catalogue, audienceOf: () => undefined });
        if (found.ok) {
          accepted++;
          const { resultMatcher } = original;
          const value =
            resultMatcher.case === 'value'
              ? resultMatcher.value.kind
              : resultMatcher.case === 'typedResult'
                ? resultMatcher.value.result?.kind
                : undefined;
          // A case that names no value is about an expression that is true.
          const wanted = value?.case === 'boolValue' ? value.value : value === undefined;
          expect(`${original.expr}: ${holds(found.condition, factsFor(null))}`).toBe(
            `${original.expr}: ${wanted}`,
          );
        } else {
          refusals++;
          expect(found.at).toBeLessThanOrEqual(original.expr.length);
          expect(found.message).not.toBe('');
        }
      }
    };
    visit(getConformanceSuite());
    expect(accepted + refusals).toBeGreaterThan(2300);
    expect(accepted).toBeGreaterThan(5);
  });
});
