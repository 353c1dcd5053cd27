import { LogicEngine } from 'json-logic-engine';
import mingo from 'mingo';
import sift from 'sift';
import { dayNumber } from '../core/attributes/calendar.ts';
import { Catalogue } from '../core/attributes/catalogue.ts';
import type { Audience } from '../core/audiences/audience.ts';
import { type Condition, test } from '../core/conditions/condition.ts';
import { slotsOf } from '../core/documents/document.ts';
import { audiencesOf } from '../core/documents/uses.ts';
import type { Bits } from '../core/population/bits.ts';
import { classify } from '../core/population/classify.ts';
import { evaluator } from '../core/population/expression.ts';
import { Population } from '../core/population/population.ts';
import { attributes, type Contact, crowd, instant, randomAudiences, randomPage, today } from './crowd.ts';
import { duckSql, duckTable } from './duckdb.ts';
import { jsonLogicOf } from './json-logic.ts';
import { mongoOf } from './mongo-query.ts';
import { readTime } from './read-time.ts';
import { median, medianTime, type Result, result } from './result.ts';
import { sized } from './size.ts';

const catalogue = new Catalogue(attributes, 'UTC');
const audiences = randomAudiences(100);
const conditionOf = (id: string) => audiences.find((audience) => audience.id === id)?.condition;
const attributeOf = (id: string) => catalogue.get(id);
const noProblems = new Map();
/** Contacts that the slowest peers are timed on; a time a contact is taken from them. */
const objectsTimed = sized(50_000, 2000);
/** How many contacts are counted; what takes longest is done with the most of them. */
const sizes = sized([10_000, 100_000, 1_000_000], [10_000]);
const most = `${Math.max(...sizes).toLocaleString('en')} contacts`;

interface Crowd {
  population: Population;
  /** One pass through all raw columns, in milliseconds. */
  read: number;
}

function fill(count: number): Crowd {
  const population = new Population(catalogue);
  for (const contact of crowd(count)) population.put(contact);
  population.reindex();
  return { population, read: readTime(count) };
}

function countAll({ population }: Crowd, of: readonly Audience[]): number[] {
  const asking = population.under({ instant, channel: 'page' }, of, noProblems);
  return of.map(({ condition }) => asking.count(condition));
}

/** Counting, editing, classifying and comparing releases, on up to a million contacts. */
export async function populationBench(): Promise<Result[]> {
  const results: Result[] = [];
  const queries = queryPeers();
  for (const size of sizes) {
    const held = fill(size);
    const own = coldCount(held, audiences);
    const name = `${size.toLocaleString('en')} contacts`;
    const isLarge = size === Math.max(...sizes);
    results.push(
      result(
        'count',
        `100 audiences, ${name}, nothing remembered`,
        'within ten reads of the columns',
        (10 * held.read) / own,
        isLarge ? 1 : 0.3,
      ),
    );
    const duck = await duckTable(attributes, crowd(size));
    const wheres = audiences.map(({ condition }) => duckSql(condition, attributeOf, conditionOf, today));
    const counts = countAll(held, audiences);
    const byDuck: number[] = [];
    const duckTimes: number[] = [];
    for (let run = 0; run < 3; run++) {
      const start = performance.now();
      for (const [index, where] of wheres.entries()) byDuck[index] = await duck.count(where);
      duckTimes.push(performance.now() - start);
    }
    if (byDuck.join() !== counts.join()) throw new Error('DuckDB counts otherwise');
    results.push(
      result(
        'count',
        `100 audiences, ${name}, nothing remembered`,
        'DuckDB, 2 threads',
        median(duckTimes) / own,
        isLarge ? 25 : 10,
      ),
    );
    const byRules = timeOfRules(size, counts);
    // The peer takes long enough for the machine to change its pace; what stands beside it is measured on both sides.
    const around = (own + coldCount(held, audiences)) / 2;
    results.push(
      result(
        'count',
        `100 audiences, ${name}, nothing remembered`,
        'json-logic-engine, compiled',
        byRules / around,
        isLarge ? 300 : 10,
      ),
    );
    if (isLarge) {
      results.push(
        result(
          'count',
          `100 audiences, ${name}, nothing remembered`,
          'sift',
          (queries.sift * size) / own,
          300,
        ),
      );
      results.push(
        result(
          'count',
          `100 audiences, ${name}, nothing remembered`,
          'mingo',
          (queries.mingo * size) / own,
          300,
        ),
      );
      for (const few of [10, 40]) {
        const some = audiences.slice(0, few);
        results.push(
          result(
            'count',
            `${few} audiences, ${name}, nothing remembered`,
            `within ${few / 10} reads of the columns`,
            ((few / 10) * held.read) / coldCount(held, some),
            0.5,
          ),
        );
      }
      results.push(
        ...(await editBench(held, duck)),
        ...updateBench(held),
        ...classifyBench(held),
        ...impactBench(held),
      );
      process.stderr.write(
        `memory of ${name} with 15 attributes, indexes and remembered answers included: ${Math.round(held.population.bytes / 2 ** 20)} MiB\n`,
      );
    }
    duck.close();
  }
  return results;
}

function coldCount(held: Crowd, of: readonly Audience[]): number {
  return medianTime(() => {
    held.population.forget();
    countAll(held, of);
  }, 7);
}

/** Milliseconds a contact that peers going through objects take for all audiences, checked to count the same. */
type PlainObject = { [attribute: string]: unknown };
type ObjectCheck = (one: PlainObject) => unknown;

function jsonLogicRules(of: readonly Audience[]): ObjectCheck[] {
  const engine = new LogicEngine();
  return of.map(({ condition }) => {
    // biome-ignore lint/suspicious/noExplicitAny: the engine takes rules of any shape
    const rule = engine.build(jsonLogicOf(condition, attributeOf, conditionOf, today) as any);
    return (one) => rule(one);
  });
}

function countObjects(checks: readonly ObjectCheck[], objects: readonly PlainObject[]): number[] {
  return checks.map((check) => {
    let sum = 0;
    for (const one of objects) if (check(one)) sum++;
    return sum;
  });
}

/** Milliseconds that a peer takes to count all audiences on objects; checked to count the same. */
function timeOnObjects(
  checks: readonly ObjectCheck[],
  objects: readonly PlainObject[],
  wanted: readonly number[],
  runs: number,
): number {
  return medianTime(() => {
    if (countObjects(checks, objects).join() !== wanted.join()) throw new Error('a peer counts otherwise');
  }, runs);
}

/** Milliseconds of json-logic-engine for all audiences; its objects are let go of before anything else is timed. */
function timeOfRules(size: number, wanted: readonly number[]): number {
  const plain = [...crowd(size)].map(plainObject);
  return timeOnObjects(jsonLogicRules(audiences), plain, wanted, 3);
}

/** Milliseconds a contact that the two slowest peers take for all audiences. */
function queryPeers(): { sift: number; mingo: number } {
  const people = [...crowd(objectsTimed)];
  const plain = people.map(plainObject);
  const population = new Population(catalogue);
  for (const one of people) population.put(one);
  const wanted = countAll({ population, read: 0 }, audiences);
  const queries = audiences.map(({ condition }) => mongoOf(condition, attributeOf, conditionOf));
  const byMingo = queries.map((query): ObjectCheck => {
    const compiled = new mingo.Query(query);
    return (one) => compiled.test(one);
  });
  return {
    sift:
      timeOnObjects(
        queries.map((query) => sift(query)),
        plain,
        wanted,
        3,
      ) / people.length,
    mingo: timeOnObjects(byMingo, plain, wanted, 3) / people.length,
  };
}

function plainObject({ values }: Contact): PlainObject {
  return Object.fromEntries(
    attributes.map(({ id, type }) => {
      const value = values[id];
      if (value === undefined) return [id, type === 'set' ? [] : null];
      return [id, type === 'date' ? dayNumber(String(value)) : value];
    }),
  );
}

/** One test of one audience is edited and the audience counted again, the rest remembered. */
async function editBench(held: Crowd, duck: Awaited<ReturnType<typeof duckTable>>): Promise<Result[]> {
  const { population, read } = held;
  countAll(held, audiences);
  const edits = Array.from({ length: 60 }, (_, at): Condition => {
    const edited = test('score', 'between', at * 7, 500 + at * 5);
    const other = audiences[at]?.condition ?? { kind: 'all', of: [] };
    return { kind: 'all', of: [other, edited] };
  });
  const asking = population.under({ instant, channel: 'page' }, audiences, noProblems);
  const own = edits.map((condition) => {
    const start = performance.now();
    asking.count(condition);
    return performance.now() - start;
  });
  const duckTimes: number[] = [];
  for (const [at, condition] of edits.slice(0, 20).entries()) {
    const where = duckSql(condition, attributeOf, conditionOf, today);
    const start = performance.now();
    const found = await duck.count(where);
    duckTimes.push(performance.now() - start);
    if (found !== asking.count(edits[at] ?? condition)) throw new Error('DuckDB counts otherwise');
  }
  const subject = `one test edited, counted again, ${most}, p50`;
  return [
    result('edit', subject, 'a tenth of a read of the columns', read / 10 / median(own), 1),
    result('edit', subject, 'DuckDB, 2 threads', median(duckTimes) / median(own), 100),
  ];
}

/** Ten seconds' worth of a thousand changes a second, in batches of a hundred, with all audiences counted after each. */
function updateBench(held: Crowd): Result[] {
  const { population } = held;
  const undisturbed = medianTime(() => countAll(held, audiences), 9);
  const changed = [...crowd(11_000, 77)];
  const times: number[] = [];
  // Ten batches first that are not timed, as the undisturbed count was not the first of its kind either.
  for (let batch = -10; batch < 100; batch++) {
    const start = performance.now();
    for (const one of changed.slice(1000 + 100 * batch, 1100 + 100 * batch))
      population.put({ ...one, id: one.id * 97 });
    population.tidy();
    const counts = countAll(held, audiences);
    if (batch >= 0) times.push(performance.now() - start);
    if (batch % 33 !== 0) continue;
    // Held to answers that nothing remembered went into.
    population.forget();
    if (countAll(held, audiences).join() !== counts.join()) throw new Error('a count is wrong after changes');
  }
  const subject = `${most}, 10,000 of them changed in batches of 100: the slowest batch with its counts`;
  return [
    result('update', subject, 'ten times the undisturbed count', (10 * undisturbed) / Math.max(...times), 1),
  ];
}

function classifyBench(held: Crowd): Result[] {
  const { population, read } = held;
  return [5, 12, 30].map((slots) => {
    const content = randomPage(slots, 40);
    const asking = population.under({ instant, channel: 'page' }, audiences, noProblems);
    for (const id of audiencesOf(content)) asking.audience(id);
    const own = medianTime(() => classify(content, population, asking), 7);
    const faces = classify(content, population, asking).length;
    return result(
      'classify',
      `${most} into ${faces.toLocaleString('en')} faces of ${slots} slots`,
      'ten reads of the columns',
      (10 * read) / own,
      slots === 30 ? 1 : 1,
    );
  });
}

/** The contacts for whom 3 of 30 slots show another variant after a release: their first two audiences change place. */
function impactBench(held: Crowd): Result[] {
  const { population, read } = held;
  const slots = slotsOf(randomPage(30, 40))
    .filter(({ variants }) => variants.length > 1)
    .slice(0, 3);
  const asking = population.under({ instant, channel: 'page' }, audiences, noProblems);
  const before = slots.map(({ variants }) => variants.map(({ audience }) => audience));
  const after = before.map(([first = '', second = '', ...rest]) => [second, first, ...rest]);
  for (const id of before.flat()) asking.audience(id);
  let changed = 0;
  const own = medianTime(() => {
    changed = population.count(changedRows(before, after, (id) => asking.audience(id), population));
  }, 21);
  const people = [...crowd(objectsTimed)].map(plainObject);
  const used = audiences.filter(({ id }) => before.flat().includes(id));
  const rules = new Map(jsonLogicRules(used).map((rule, index) => [used[index]?.id ?? '', rule]));
  let byPeer = 0;
  const peer = medianTime(() => {
    byPeer = 0;
    for (const one of people) {
      const is = (id: string) => Boolean(rules.get(id)?.(one));
      const differs = before.some((order, slot) => order.find(is) !== after[slot]?.find(is));
      if (differs) byPeer++;
    }
  }, 3);
  if (changed === 0 || byPeer === 0) throw new Error('nothing changes');
  return [
    result('impact', `${most}, 3 of 30 slots changed`, 'one read of the columns', read / own, 1),
    result(
      'impact',
      `${most}, 3 of 30 slots changed`,
      'json-logic-engine on objects',
      ((peer / people.length) * population.size) / own,
      250,
    ),
  ];
}

/** Rows whose choice differs: for each slot the choices' rows before and after, compared by exclusive or. */
function changedRows(
  before: readonly (readonly string[])[],
  after: readonly (readonly string[])[],
  members: (id: string) => Bits,
  population: Population,
): Bits {
  const changed = new Int32Array(population.everybody.length);
  const chosen = (order: readonly string[]) => {
    const rest = population.everybody.slice();
    return new Map(
      order.map((id): [string, Bits] => {
        const own = rest.slice();
        evaluator.join(own, members(id), 'and');
        evaluator.join(rest, own, 'andNot');
        return [id, own];
      }),
    );
  };
  for (const [slot, order] of before.entries()) {
    const [old, next] = [chosen(order), chosen(after[slot] ?? [])];
    for (const [id, rows] of old) {
      const other = next.get(id) ?? new Int32Array(rows.length);
      evaluator.join(rows, other, 'xor');
      evaluator.join(changed, rows, 'or');
    }
  }
  return changed;
}
