import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { audience, few, settings } from '../../test/drafted-audiences.ts';
import { attributes, noon, randomConditionOf } from '../../test/random-conditions.ts';
import type { Audience } from '../audiences/audience.ts';
import type { StatedFact } from '../audiences/fact.ts';
import { all, any, inAudience, not, test } from '../conditions/condition.ts';
import { analyseCondition } from './condition-analysis.ts';
import { comparedWith } from './other-audiences.ts';
import { relationOf } from './relation.ts';

/** Everybody with a tier has a plan, and everybody has said whether they are a VIP. */
const facts: StatedFact[] = [
  { id: 'planned', who: test('tier', 'has-value'), also: test('plan', 'has-value') },
  { id: 'told', who: all(), also: test('vip', 'has-value') },
];

/** What is found when each audience is compared with all others. */
function comparisons(audiences: readonly Audience[], stated: readonly StatedFact[]): string[] {
  const drafts = { attributes, audiences: [...audiences], settings, facts: [...stated] };
  return audiences.flatMap(({ id, condition }) =>
    analyseCondition(drafts, condition, id, noon, { time: 60_000 }).findings.flatMap(({ kind, sentence }) => {
      const [, other = ''] = /“(.+)”/.exec(sentence) ?? [];
      return kind === 'same' || kind === 'contained' ? [`${id} ${kind} ${other}`] : [];
    }),
  );
}

/** The same, each pair proved by itself. Somebody and nobody have no relation worth telling. */
function proved(audiences: readonly Audience[], stated: readonly StatedFact[]): string[] {
  const ends = [audience('everybody', all()), audience('nobody', any())];
  const drafts = { attributes, audiences: [...audiences, ...ends], settings, facts: [...stated] };
  const relation = (one: string, two: string) => relationOf(drafts, one, two, noon);
  const plain = audiences.filter(
    ({ id }) => relation(id, 'everybody') !== 'same' && relation(id, 'nobody') !== 'same',
  );
  return plain.flatMap(({ id }) =>
    audiences.flatMap((other) => {
      const found = other.id === id ? undefined : relation(id, other.id);
      return found === 'same' || found === 'inside'
        ? [`${id} ${found === 'same' ? 'same' : 'contained'} ${other.id}`]
        : [];
    }),
  );
}

it('names what was not compared where that is few', () => {
  expect(comparedWith(['a', 'b', 'c'])).toBe('“a”, “b” and “c”');
  expect(comparedWith(['a', 'b', 'c', 'd'])).toBe('4 other audiences');
});

describe('comparing an audience with all others', () => {
  it.each([
    ['nothing stated', []],
    ['what is stated to always hold', facts],
  ] as const)('finds what proving each pair finds, with %s', (_name, stated) => {
    const random = fc.sample(randomConditionOf(few), { numRuns: 40, seed: 4 });
    const audiences = [
      ...random.map((condition, at) => audience(`a${at}`, condition)),
      audience('tiered', test('tier', 'has-value')),
      audience('planned', test('plan', 'has-value')),
      audience('vips', test('vip', 'is-yes')),
      audience('not vips', test('vip', 'is-no')),
      audience('no vips', not(test('vip', 'is-yes'))),
    ];
    const found = comparisons(audiences, stated);
    // A condition that names an audience says itself that it is part of it; none of these does.
    expect(found.sort()).toEqual(proved(audiences, stated).sort());
    expect(found.includes('tiered contained planned')).toBe(stated.length > 0);
    // Anonymous visitors are no contacts, so that nothing is stated about them.
    expect(found).toContain('not vips contained no vips');
    expect(found).not.toContain('no vips contained not vips');
  });

  it('says up to when it is proved where only the other one asks for the time', () => {
    const every2Days = (start: string) => test('moment', 'recurs', start, 60, 'FREQ=DAILY;INTERVAL=2');
    const [odd, even] = [every2Days('2026-11-24T20:00'), every2Days('2026-11-25T20:00')];
    const audiences = [
      audience('vips', test('vip', 'is-yes')),
      audience('not both', not(all(odd, even))),
      audience('odd or not', any(odd, test('vip', 'has-value'))),
    ];
    const drafts = { attributes, audiences, settings, facts: [] };
    const { findings } = analyseCondition(drafts, test('vip', 'is-yes'), 'vips', noon, { time: 60_000 });
    expect(findings.map(({ sentence }) => sentence)).toEqual([
      expect.stringMatching(/^Always part of “not both”\. Proved up to \d+ \w+ 2\d{3} at \d\d:\d\d\.$/),
      // Whether it is one of the days or not makes no difference to this one.
      'Always part of “odd or not”.',
    ]);
  });

  it('says nothing of what a condition says in so many words', () => {
    const audiences = [
      audience('vips', test('vip', 'is-yes')),
      audience('both', all(inAudience('vips'), test('tier', 'has-value'))),
      audience('alike', all(inAudience('vips'))),
      audience('all but vips', not(inAudience('vips'))),
    ];
    expect(comparisons(audiences, [])).toEqual([
      'vips same alike',
      'both contained alike',
      'alike same vips',
    ]);
  });
});
