import { describe, expect, it } from 'vitest';
import { demoAttributes } from '../../demo/scenario.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../conditions/condition.ts';
import { aboutToday } from './today.ts';

const catalogue = new Catalogue(demoAttributes, 'Europe/London');
const names = { catalogue, audience: (id: string) => id };
const audience = (id: string, condition: Condition): Audience => ({
  id,
  name: id,
  description: '',
  condition,
});
const key = (condition: Condition) => JSON.stringify(condition);

/** What is said where each of some conditions counts so many contacts, and all others none. */
function said(
  condition: Condition,
  counts: readonly (readonly [Condition, number])[],
  others: readonly Audience[] = [],
) {
  const known = new Map(counts.map(([of, count]) => [key(of), count]));
  const question = aboutToday(condition, others, names);
  return question.read(question.conditions.map((of) => known.get(key(of)) ?? 0));
}

const tier = test('tier', 'is-one-of', 'dusk');
const often = test('visits', 'at-least', 3);
const city = test('city', 'is-one-of', 'Larkhaven');

describe('what is so of today’s contacts', () => {
  it('is that nobody is in it, with the part first whose removal lets the fewest in', () => {
    const condition = all(tier, often, city);
    const found = said(condition, [
      [all(often, city), 40],
      [all(tier, city), 7],
      [all(tier, often), 0],
    ]);
    expect(found).toEqual([
      {
        kind: 'nobody-today',
        severity: 'careful',
        sentence: 'No contact is in it today, though somebody could be.',
        people: undefined,
        repairs: [
          {
            label: 'Remove “visits this year is at least 3”',
            condition: all(tier, city),
            joins: all(tier, city),
            leaves: null,
          },
          {
            label: 'Remove “membership tier is Dusk”',
            condition: all(often, city),
            joins: all(often, city),
            leaves: null,
          },
        ],
      },
    ]);
    // One test has no part to be left out, and any of several none whose removal would loosen it.
    expect(said(tier, [])[0]?.repairs).toEqual([]);
    expect(said(any(tier, often), [])[0]?.repairs).toEqual([]);
  });

  it('is only that nobody is in it right now where the time decides', () => {
    const evening = test('moment-time', 'between', '18:00', '22:00');
    const condition = all(evening, tier, often);
    const [found] = said(condition, [
      [all(tier, often), 30],
      [all(evening, often), 3],
    ]);
    expect(found).toMatchObject({
      kind: 'nobody-now',
      severity: 'note',
      sentence: 'No contact is in it right now; it depends on the time.',
    });
    // The window is not what is wrong with it.
    expect(found?.repairs.map(({ condition: next }) => next)).toEqual([all(evening, often)]);
    const evenings = audience('evenings', evening);
    expect(said(all(inAudience('evenings'), tier), [], [evenings])[0]?.kind).toBe('nobody-now');
    // What holds at this moment is no likeness to other audiences.
    const now = all(evening, tier);
    const counts = [
      [now, 5],
      [all(now, test('tier', 'has-value')), 5],
      [inAudience('same'), 5],
      [all(now, inAudience('same')), 5],
    ] as const;
    expect(said(now, counts, [audience('same', tier)])).toEqual([]);
  });

  it('is nothing where a visit or an item decides, through other audiences too', () => {
    const phones = test('visit-device', 'is-one-of', 'phone');
    const byItem = test('item-title', 'has-value');
    for (const condition of [phones, all(tier, phones), byItem, inAudience('on phones')]) {
      const question = aboutToday(condition, [audience('on phones', phones)], names);
      expect([condition, question.conditions, question.read([])]).toEqual([condition, [], []]);
    }
  });

  it('is that only people without a value are in it, and how to say so', () => {
    const notDusk = not(tier);
    const condition = all(often, notDusk);
    const found = said(condition, [
      [condition, 12],
      [all(condition, test('visits', 'has-value')), 12],
    ]);
    const saying = all(often, test('tier', 'has-no-value'));
    expect(found).toEqual([
      {
        kind: 'only-lacking',
        severity: 'careful',
        sentence: 'Everybody in it is there for lack of a value: all 12 people have no membership tier.',
        people: undefined,
        repairs: [
          {
            label: 'Say so: has no membership tier',
            condition: saying,
            joins: all(saying, not(condition)),
            leaves: all(condition, not(saying)),
          },
        ],
      },
    ]);
    expect(said(notDusk, [[notDusk, 1]])[0]).toMatchObject({
      sentence: 'Everybody in it is there for lack of a value: the one person has no membership tier.',
      repairs: [{ condition: all(test('tier', 'has-no-value')) }],
    });
    // Where some of them have a value, or the condition asks for the lack itself, there is nothing to tell.
    expect(
      said(notDusk, [
        [notDusk, 9],
        [all(notDusk, test('tier', 'has-value')), 1],
      ]),
    ).toEqual([]);
    const asked = all(notDusk, test('tier', 'has-no-value'));
    expect(said(asked, [[asked, 9]])).toEqual([]);
  });

  it('is that the same people are in another audience, or some of those in the smallest one', () => {
    const [members, all_, few] = [audience('members', often), audience('all', all()), audience('few', city)];
    const counts = (theirs: number, both: number): [Condition, number][] => [
      [tier, 5],
      [all(tier, test('tier', 'has-value')), 5],
      [inAudience('members'), theirs],
      [all(tier, inAudience('members')), both],
      [inAudience('all'), 2400],
      [all(tier, inAudience('all')), 5],
      [inAudience('few'), 4],
      [all(tier, inAudience('few')), 4],
    ];
    const others = [all_, few, members];
    const only = (theirs: number, both: number) => {
      const found = said(tier, counts(theirs, both), others);
      expect(found).toHaveLength(1);
      return [found[0]?.kind, found[0]?.sentence];
    };
    expect(only(5, 5)).toEqual([
      'same-today',
      'The same 5 people as “members”, among today’s contacts only.',
    ]);
    expect(only(9, 5)).toEqual([
      'contained-today',
      'Everybody in it is in “members” too, among today’s contacts only.',
    ]);
    expect(only(9, 4)).toEqual([
      'contained-today',
      'Everybody in it is in “all” too, among today’s contacts only.',
    ]);
    // What a condition names itself needs no telling.
    const naming = all(tier, inAudience('members'));
    expect(
      said(
        naming,
        [
          [naming, 5],
          [all(naming, test('tier', 'has-value')), 5],
        ],
        [members],
      ),
    ).toEqual([]);
  });
});
