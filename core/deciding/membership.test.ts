import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { randomCondition, randomConditionOf, randomViewer, tested } from '../../test/random-conditions.ts';
import type { Attribute } from '../attributes/attribute.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf, type Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { compile } from '../conditions/evaluate.ts';
import { Membership } from './membership.ts';

const members = (count: number) =>
  Array.from({ length: count }, (_, index) => ({ id: `m${index}`, label: `m${index}` }));
const set = (id: string, count: number): Attribute => ({
  id,
  label: id,
  description: '',
  source: 'contact',
  type: 'set',
  choices: members(count),
  exclusiveGroups: [],
});
const sets = [set('most-bits', 31), set('too-many-bits', 32), set('many', 60)];
const catalogue = new Catalogue(
  [...tested.filter(({ source }) => source !== 'visit'), ...sets],
  'Europe/London',
);
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});

const viewerWith = (contact: Viewer['contact']): Viewer => ({
  contact,
  signedIn: false,
  visit: {},
  item: null,
  instant: Date.parse('2026-11-24T12:00:00Z'),
});

/** Who is in a condition, alone and behind an audience that names it twice. */
function answers(condition: Condition, viewer: Viewer): boolean[] {
  const membership = new Membership(catalogue, [
    audience('one', condition),
    audience('twice', all(inAudience('one'), not(not(inAudience('one'))))),
  ]);
  membership.lookAs(factsOf(catalogue, viewer));
  const first = membership.firstOf(membership.writeFirst(['twice', 'one'], -1));
  return [
    membership.containsViewer('one'),
    membership.containsViewer('twice'),
    first === 0,
    membership.meets(membership.write(inAudience('twice'))),
  ];
}

describe('deciding by steps', () => {
  it('agrees with evaluating the condition part by part', () => {
    fc.assert(
      fc.property(randomCondition, randomViewer, (condition, viewer) => {
        const holds = compile(condition, catalogue)(factsOf(catalogue, viewer));
        expect(answers(condition, viewer)).toEqual([holds, holds, holds, holds]);
      }),
      { numRuns: 3000, seed: 10 },
    );
  });

  it('agrees about sets of as many members as a number has bits, and more', () => {
    const held = fc.record(
      Object.fromEntries(
        sets.map((attribute) => [
          attribute.id,
          fc.uniqueArray(
            fc.constantFrom(...('choices' in attribute ? attribute.choices : []).map(({ id }) => id)),
          ),
        ]),
      ),
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(randomConditionOf(sets), held, (condition, contact) => {
        const viewer = viewerWith(contact);
        const holds = compile(condition, catalogue)(factsOf(catalogue, viewer));
        expect(answers(condition, viewer)).toEqual([holds, holds, holds, holds]);
      }),
      { numRuns: 2000, seed: 10 },
    );
    for (const { id } of sets) {
      const last = id === 'most-bits' ? 'm30' : 'm31';
      const only = test(id, 'includes-any', last);
      expect([
        id,
        answers(only, viewerWith({ [id]: [last] }))[0],
        answers(only, viewerWith({ [id]: ['m0'] }))[0],
      ]).toEqual([id, true, false]);
    }
  });

  it('passes over members and choices that do not exist any more', () => {
    const gone = viewerWith({ 'most-bits': ['no-more'], tier: 'no-more', visits: Number.NaN, vip: 'yes' });
    for (const id of ['most-bits', 'tier', 'visits', 'vip'])
      expect([id, answers(test(id, 'has-value'), gone)]).toEqual([id, [false, false, false, false]]);
    const some = viewerWith({ 'most-bits': ['no-more', 'm3'] });
    expect(answers(test('most-bits', 'includes-all', 'm3'), some)[0]).toBe(true);
    expect(answers(test('most-bits', 'includes-all', 'm3', 'm4'), some)[0]).toBe(false);
  });

  it('takes a hundred audiences that each name the one before twice', () => {
    const chain = [audience('a0', test('vip', 'is-yes'))];
    for (let at = 1; at <= 100; at++)
      chain.push(audience(`a${at}`, any(inAudience(`a${at - 1}`), all(inAudience(`a${at - 1}`)))));
    const membership = new Membership(catalogue, chain);
    for (const vip of [true, false]) {
      membership.lookAs(factsOf(catalogue, viewerWith({ vip })));
      expect(membership.containsViewer('a100')).toBe(vip);
    }
  });

  it('forgets the answers about one viewer when it turns to another', () => {
    const membership = new Membership(catalogue, [
      audience('town', test('city', 'contains', 'ark')),
      audience('long', all(...Array.from({ length: 20 }, () => test('city', 'starts-with', 'L')))),
    ]);
    const asked = (city: string) => {
      membership.lookAs(factsOf(catalogue, viewerWith({ city })));
      return [membership.containsViewer('town'), membership.containsViewer('long')];
    };
    expect([asked('Larkhaven'), asked('Park'), asked('Larkhaven'), asked('Leeds')]).toEqual([
      [true, true],
      [true, false],
      [true, true],
      [false, true],
    ]);
  });
});
