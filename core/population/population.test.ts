import { deserialize, serialize } from 'node:v8';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { crowd, attributes as crowdAttributes, randomAudiences } from '../../bench/crowd.ts';
import { Random } from '../../demo/random.ts';
import { attributes, noon, randomConditionOf, randomValues, tested } from '../../test/random-conditions.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, type Condition, inAudience, leavesOf, not, test } from '../conditions/condition.ts';
import { compile } from '../conditions/evaluate.ts';
import { Membership } from '../deciding/membership.ts';
import { faceKey, visibilityOf } from '../deciding/visibility.ts';
import type { Content } from '../documents/document.ts';
import { classify } from './classify.ts';
import { type Person, Population, type Setting } from './population.ts';

const zone = 'Europe/London';
const catalogue = new Catalogue(attributes, zone);
const setting: Setting = {
  instant: noon,
  channel: 'page',
  visit: { 'visit-device': 'phone' },
  item: { author: 'lark' },
};
const unvisited: Setting = { instant: noon, channel: 'page' };
const noProblems = new Map();

const person = fc.record({
  id: fc.integer({ min: 1, max: 80 }),
  values: randomValues,
  hasAccount: fc.boolean(),
});

/** Evaluation, a contact at a time. */
function holds(condition: Condition, { values, hasAccount }: Person, of = setting): boolean {
  const facts = factsOf(catalogue, {
    contact: { ...values },
    signedIn: hasAccount && of.channel === 'page',
    visit: of.channel === 'page' ? { ...of.visit } : {},
    item: of.item ? { ...of.item } : null,
    instant: of.instant,
  });
  return compile(condition, catalogue)(facts);
}

const byNumber = (left: number, right: number) => left - right;

/** Every test that random audiences of the crowd ask, and for each attribute whether there is a value. */
function crowdTests(): [Condition, ...Condition[]] {
  const asked = randomAudiences(120, 9).flatMap(({ condition }) =>
    [...leavesOf(condition)].filter((leaf) => leaf.kind === 'test'),
  );
  const known = crowdAttributes.flatMap(({ id }) => [test(id, 'has-value'), test(id, 'has-no-value')]);
  return [not(test('score', 'between', 200, 400)), ...asked, ...asked.map((one) => not(one)), ...known];
}

function populationOf(people: Iterable<Person>): Population {
  const population = new Population(catalogue);
  for (const one of people) population.put(one);
  population.reindex();
  return population;
}

describe('a population', () => {
  it('finds the members of any condition that evaluation finds', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(person, { selector: ({ id }) => id, maxLength: 60 }),
        fc.array(randomConditionOf(tested), { minLength: 1, maxLength: 8 }),
        fc.constantFrom<Setting['channel']>('page', 'email'),
        (people, conditions, channel) => {
          const of = { ...setting, channel };
          const population = populationOf(people);
          const asking = population.under(of, [], noProblems);
          for (const condition of conditions) {
            const wanted = people.filter((one) => holds(condition, one, of)).map(({ id }) => id);
            expect(population.idsIn(asking.rows(condition))).toEqual(wanted);
            expect(asking.count(condition)).toBe(wanted.length);
          }
        },
      ),
      { numRuns: 300 },
    );
  });

  it('is right after every change, with what it remembers as with what it is asked anew', () => {
    const change = fc.oneof(
      { weight: 4, arbitrary: person.map((put) => ({ put })) },
      fc.integer({ min: 1, max: 80 }).map((remove) => ({ remove })),
      fc.constant({ reindex: true }),
    );
    fc.assert(
      fc.property(
        fc.array(change, { minLength: 1, maxLength: 120 }),
        fc.array(randomConditionOf(tested), { minLength: 1, maxLength: 5 }),
        (changes, conditions) => {
          const population = new Population(catalogue);
          const people = new Map<number, Person>();
          for (const [index, one] of changes.entries()) {
            if ('put' in one) {
              population.put(one.put);
              people.set(one.put.id, one.put);
            } else if ('remove' in one) {
              population.remove(one.remove);
              people.delete(one.remove);
            } else if (index % 2 === 0) population.reindex();
            else population.tidy();
            if (index % 5 !== 0) continue;
            const asking = population.under(setting, [], noProblems);
            for (const condition of conditions) {
              const wanted = [...people.values()].filter((who) => holds(condition, who)).map(({ id }) => id);
              expect(population.idsIn(asking.rows(condition)).sort()).toEqual(wanted.sort());
            }
          }
          expect(population.size).toBe(people.size);
        },
      ),
      { numRuns: 150 },
    );
  });

  it('is the same once it was written down, and after changes from there on', () => {
    const some = fc.uniqueArray(person, { selector: ({ id }) => id, maxLength: 60 });
    const asked = fc.array(randomConditionOf(tested), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(
        some,
        fc.array(fc.integer({ min: 1, max: 80 })),
        some,
        asked,
        (first, gone, later, conditions) => {
          const before = new Population(catalogue);
          const people = new Map<number, Person>();
          for (const one of first) {
            before.put(one);
            people.set(one.id, one);
          }
          for (const id of gone) {
            before.remove(id);
            people.delete(id);
          }
          const population = Population.of(catalogue, deserialize(serialize(before.image())));
          const check = () => {
            const asking = population.under(setting, [], noProblems);
            for (const condition of conditions) {
              const wanted = [...people.values()].filter((who) => holds(condition, who)).map(({ id }) => id);
              expect(population.idsIn(asking.rows(condition)).sort(byNumber)).toEqual(wanted.sort(byNumber));
            }
            for (const { id } of attributes.filter(({ source }) => source === 'contact'))
              expect(population.lacking(id)).toBe(
                [...people.values()].filter((who) => holds(test(id, 'has-no-value'), who, unvisited)).length,
              );
            expect(population.size).toBe(people.size);
          };
          check();
          for (const one of later) {
            population.put(one);
            people.set(one.id, one);
          }
          population.forget();
          check();
          population.reindex();
          population.forget();
          check();
        },
      ),
      { numRuns: 100 },
    );
  });

  it('is the same read whole as appended in two parts, with what changed before and after', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(person, { selector: ({ id }) => id, maxLength: 60 }),
        fc.nat(60),
        fc.array(fc.integer({ min: 1, max: 80 }), { maxLength: 10 }),
        fc.array(person, { maxLength: 10 }),
        randomConditionOf(tested),
        (people, at, gone, later, condition) => {
          const [first, second] = [people.slice(0, at), people.slice(at)];
          const population = populationOf(first);
          const rest = populationOf(second);
          for (const id of gone) rest.remove(id);
          population.append(deserialize(serialize(rest.image(false))));
          for (const one of later) population.put(one);
          const left = second.filter(({ id }) => !gone.includes(id));
          const all = new Map([...first, ...left, ...later].map((one) => [one.id, one]));
          const bits = population.under(setting, [], noProblems).rows(condition);
          expect(population.idsIn(bits).sort(byNumber)).toEqual(
            [...all.values()].flatMap((one) => (holds(condition, one) ? [one.id] : [])).sort(byNumber),
          );
          expect(population.size).toBe(all.size);
        },
      ),
      { numRuns: 200 },
    );
  });

  it('is not made of an image of other attributes', () => {
    const image = populationOf([]).image();
    expect(() => Population.of(new Catalogue(crowdAttributes, 'UTC'), image)).toThrow('other attributes');
  });

  it('answers from its indexes what evaluation answers, however they came to be as they are', () => {
    const random = new Random(11);
    const catalogue = new Catalogue(crowdAttributes, 'UTC');
    const population = new Population(catalogue);
    const people = new Map<number, Person>();
    const put = (one: Person) => {
      population.put(one);
      people.set(one.id, one);
    };
    for (const one of crowd(1500)) put(one);
    population.reindex();
    const tests = crowdTests();
    for (let round = 0; round < 40; round++) {
      // Sometimes few change, sometimes most; some are new, some go, and some lose every value.
      const count = random.pick([3, 40, 1200]);
      for (const one of crowd(count, 100 + round)) {
        const id = random.between(1, 1600);
        if (random.chance(0.1)) {
          population.remove(id);
          people.delete(id);
        } else put({ ...one, id, values: random.chance(0.1) ? {} : one.values });
      }
      if (round % 3 === 1) population.tidy();
      if (round % 3 === 2) population.reindex();
      // Nothing remembered, so that the columns answer, between two changes of their indexes as well as after.
      population.forget();
      const asking = population.under({ instant: noon, channel: 'page' }, [], noProblems);
      const facts = [...people.values()].map(({ id, values, hasAccount }) => ({
        id,
        own: factsOf(catalogue, {
          contact: values,
          signedIn: hasAccount,
          visit: {},
          item: null,
          instant: noon,
        }),
      }));
      for (let asked = 0; asked < 12; asked++) {
        const condition = random.pick(tests);
        const holds = compile(condition, catalogue);
        const wanted = facts.filter(({ own }) => holds(own)).map(({ id }) => id);
        const found = population.idsIn(asking.rows(condition));
        expect([JSON.stringify(condition), found.sort(byNumber)]).toEqual([
          JSON.stringify(condition),
          wanted.sort(byNumber),
        ]);
        expect(asking.count(condition)).toBe(wanted.length);
      }
    }
  });

  it('knows who lacks a value, also after a change', () => {
    const population = populationOf([
      { id: 1, values: { city: 'Larkhaven' }, hasAccount: false },
      { id: 2, values: { city: '' }, hasAccount: false },
      { id: 3, values: { visits: 'many', city: 'Tarnley' }, hasAccount: true },
    ]);
    expect([population.lacking('city'), population.lacking('visits')]).toEqual([1, 3]);
    population.put({ id: 2, values: { city: 'Ashwold', visits: 3 }, hasAccount: false });
    expect([population.lacking('city'), population.lacking('visits')]).toEqual([0, 2]);
    population.remove(3);
    expect([population.lacking('city'), population.lacking('visits')]).toEqual([0, 1]);
  });

  it('holds bounds exactly, at numbers that have no neighbour in decimals', () => {
    const population = populationOf(
      [0.1 + 0.2, 0.3, -0, 5e-324, 1e308].map((visits, id) => ({
        id,
        values: { visits },
        hasAccount: false,
      })),
    );
    const asking = population.under(setting, [], noProblems);
    const ids = (op: string, value: number) => population.idsIn(asking.rows(test('visits', op, value)));
    expect(ids('more-than', 0.3)).toEqual([0, 4]);
    expect(ids('fewer-than', 0.3)).toEqual([2, 3]);
    expect(ids('more-than', 0)).toEqual([0, 1, 3, 4]);
    expect(ids('at-least', 0)).toEqual([0, 1, 2, 3, 4]);
  });

  it('asks an audience with a problem of nobody, and others through references', () => {
    const audiences: Audience[] = [
      { id: 'vip', name: '', description: '', condition: test('vip', 'is-yes') },
      {
        id: 'rest',
        name: '',
        description: '',
        condition: all(not(inAudience('vip')), not(inAudience('broken'))),
      },
      // A chain whose first link builds on what comes last.
      { id: 'first', name: '', description: '', condition: not(inAudience('second')) },
      { id: 'second', name: '', description: '', condition: not(inAudience('third')) },
      { id: 'third', name: '', description: '', condition: not(inAudience('broken')) },
      { id: 'broken', name: '', description: '', condition: test('gone', 'is-yes') },
    ];
    const { problems } = new Membership(catalogue, audiences);
    const population = populationOf([
      { id: 1, values: { vip: true }, hasAccount: false },
      { id: 2, values: {}, hasAccount: false },
    ]);
    const asking = population.under(setting, audiences, problems);
    expect(population.idsIn(asking.audience('vip'))).toEqual([1]);
    // As in deciding, what builds on a broken audience is broken too.
    expect(population.idsIn(asking.audience('rest'))).toEqual([]);
    expect(population.idsIn(asking.audience('broken'))).toEqual([]);
    expect(population.idsIn(asking.audience('not there'))).toEqual([]);
    for (const id of ['first', 'second', 'third', 'rest', 'broken']) expect(problems.has(id)).toBe(true);
  });
});

describe('classifying', () => {
  it('puts every contact into the face that deciding gives, for more audiences than a word has bits', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(person, { selector: ({ id }) => id, minLength: 1, maxLength: 70 }),
        fc.array(randomConditionOf(tested), { minLength: 1, maxLength: 40 }),
        (people, conditions) => {
          const audiences = conditions.map((condition, index) => ({
            id: `a${index}`,
            name: '',
            description: '',
            condition,
          }));
          const last = audiences.at(-1)?.id ?? '';
          const slot = (
            index: number,
            audience: string,
            inner: Content['body'],
            otherwise: Content['body'] = [],
          ) => ({
            kind: 'slot' as const,
            id: `s${index}`,
            name: 's',
            variants: [{ id: `v${index}`, audience, content: inner }],
            otherwise,
          });
          const content: Content = {
            subject: [],
            preview: [],
            body: audiences.map(({ id }, index) =>
              index === 0
                ? slot(0, id, [slot(99, 'a0', [])], [slot(98, 'a0', []), slot(97, last, [])])
                : slot(index, id, []),
            ),
          };
          const membership = new Membership(catalogue, audiences);
          const population = populationOf(people);
          const found = classify(
            content,
            population,
            population.under(setting, audiences, membership.problems),
          );
          const wanted = new Map<string, number>();
          const visible = visibilityOf(content);
          for (const one of people) {
            const is = audiences.map(({ condition }) => (holds(condition, one) ? 0 : -1));
            const first = is[0] ?? -1;
            const key = faceKey(visible([first, first, first, is.at(-1) ?? -1, ...is.slice(1)]));
            wanted.set(key, (wanted.get(key) ?? 0) + 1);
          }
          expect(new Map(found.map(({ choices, count }) => [faceKey(choices), count]))).toEqual(wanted);
          for (const { contact } of found) expect(people.map(({ id }) => id)).toContain(contact);
        },
      ),
      { numRuns: 100 },
    );
  });
});
