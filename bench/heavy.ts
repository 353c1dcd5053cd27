import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { analyseCondition } from '../core/analysis/condition-analysis.ts';
import { analyseDocument } from '../core/analysis/document-analysis.ts';
import type { Attribute } from '../core/attributes/attribute.ts';
import { Catalogue } from '../core/attributes/catalogue.ts';
import { FactReader } from '../core/attributes/viewer.ts';
import type { Audience } from '../core/audiences/audience.ts';
import { all, any, type Condition, inAudience, not, test } from '../core/conditions/condition.ts';
import { explain } from '../core/conditions/explain.ts';
import { toSql } from '../core/conditions/sql.ts';
import { demoSettings } from '../demo/scenario.ts';
import type { Asked } from './audience.worker.ts';
import { attributes, crowd, instant, randomAudiences, randomPage } from './crowd.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

const settings = { ...demoSettings, zone: 'UTC' };
const runs = sized(5, 1);
const columns = { id: 'id', email: 'email', values: '`values`', folded: 'folded' };
const mebibyte = 2 ** 20;

/** What the studio and the server ask of the heaviest pages and conditions, each within a bound of its own. */
export async function heavyBench(): Promise<Result[]> {
  return [...documents(), setMembers(), ...doublyNamed(), ...(await allAudiences())];
}

function documents(): Result[] {
  const analyse = (slots: number, count: number, time: number) => {
    const content = randomPage(slots, count);
    const audiences = randomAudiences(count);
    return analyseDocument(
      { settings, attributes, audiences },
      { id: 'page', kind: 'page', name: 'Page', slug: '', content },
      instant,
      { time },
    );
  };
  const before = process.memoryUsage().rss;
  const described = timed(() => {
    const { faces, findings } = analyse(30, 40, 60_000);
    const said = faces.slice(0, 100).filter(({ description }) => description !== undefined).length;
    const unproved = findings.filter(({ kind }) => kind === 'not-proved').length;
    if (said !== 100 || unproved > 0) throw new Error(`${said} faces described, ${unproved} not proved`);
  });
  const grown = Math.max(1, (process.memoryUsage().rss - before) / mebibyte);
  const late = timed(() => {
    const { refused, complete, faces, findings } = analyse(100, 80, 2000);
    if (refused !== undefined || complete || faces.length === 0 || findings.length === 0)
      throw new Error('a page that is too large has no partial answer');
  });
  const subject = 'findings, overlaps, faces and who gets the first 100 of them: 30 slots, 40 audiences';
  return [
    bounded('prove', subject, described, 1000),
    result('prove', `${subject}, ${grown.toFixed(0)} MiB`, 'the bound of 500 MiB', 500 / grown, 1),
    // What has a deadline may pass it by the time that it takes to look at the clock and answer.
    bounded('prove', 'what can be proved within 2 s: 100 slots, 80 audiences', late, 2100),
  ];
}

function setMembers(): Result {
  const names = Array.from({ length: 200 }, (_, index) => `m${index}`);
  const set: Attribute = {
    id: 'many',
    source: 'contact',
    type: 'set',
    label: 'many',
    description: '',
    choices: names.map((id) => ({ id, label: id })),
    exclusiveGroups: [{ name: 'the first three', members: names.slice(0, 3) }],
  };
  const time = timed(() => {
    const drafts = { settings, attributes: [set], audiences: [] };
    const { findings, refused } = analyseCondition(
      drafts,
      test('many', 'includes-all', ...names),
      null,
      instant,
    );
    if (refused !== undefined || findings.map(({ kind }) => kind).join() !== 'never-true')
      throw new Error('three members that exclude each other are not found');
  });
  return bounded('prove', 'all findings about one test of 200 members of a set', time, 200);
}

/** What is found of every audience of a workspace by two threads, as the studio asks: of all at first, and after an edit. */
async function allAudiences(): Promise<Result[]> {
  const count = sized(200, 20);
  let audiences = randomAudiences(count);
  const threads = [0, 1].map(() => new Worker(new URL('./audience-worker.mjs', import.meta.url)));
  const found = async (isAnew: boolean) => {
    const start = performance.now();
    const answers = threads.map(async (thread, which) => {
      const ids = audiences.flatMap(({ id }, at) => (at % threads.length === which ? [id] : []));
      const drafts = { settings, attributes, audiences, facts: [] };
      thread.postMessage({ drafts, ids, isAnew } satisfies Asked);
      const [number] = await once(thread, 'message');
      return Number(number);
    });
    const findings = (await Promise.all(answers)).reduce((sum, some) => sum + some, 0);
    if (findings === 0) throw new Error('nothing is found');
    return performance.now() - start;
  };
  await found(true);
  const whole: number[] = [];
  for (let run = 0; run < runs; run++) whole.push(await found(true));
  const again: number[] = [];
  for (let run = 1; run <= runs; run++) {
    // Others build on the first ten, so that an edit of these is one of several.
    const edited = sized(20, 10) + run * sized(7, 1);
    audiences = audiences.map((one, at) => (at === edited ? { ...one, condition: not(one.condition) } : one));
    again.push(await found(false));
  }
  await Promise.all(threads.map((thread) => thread.terminate()));
  return [
    bounded('prove', `all findings of ${count} audiences`, median(whole), 1000),
    bounded('prove', `all findings of ${count} audiences after one was edited`, median(again), 100),
  ];
}

/** An audience that names the one below it twice, thirty levels deep: 2³⁰ parts, were nothing remembered. */
function doublyNamed(): Result[] {
  const depth = 30;
  const first: Condition = all(test('visits', 'at-least', 3), test('vip', 'is-yes'));
  const audiences: Audience[] = [{ id: 'c0', name: 'c0', description: '', condition: first }];
  for (let level = 1; level <= depth; level++) {
    const below = inAudience(`c${level - 1}`);
    const condition = any(all(below, test('score', 'more-than', level)), all(not(below), not(below)));
    audiences.push({ id: `c${level}`, name: `c${level}`, description: '', condition });
  }
  const catalogue = new Catalogue(attributes, 'UTC');
  const last = inAudience(`c${depth}`);
  const byId = new Map(audiences.map(({ id, condition }) => [id, condition]));
  const conditionOf = (id: string) => byId.get(id);
  const [person] = crowd(1);
  const facts = new FactReader(catalogue).read({
    contact: person?.values ?? {},
    signedIn: true,
    visit: {},
    item: null,
    instant,
  });
  const explained = timed(() => explain(last, facts, catalogue, conditionOf));
  const written = timed(() => toSql(last, { catalogue, conditionOf, facts, signedIn: 'FALSE', columns }));
  const subject = `an audience that names another twice at each of ${depth} levels`;
  return [
    bounded('explain', `${subject}, explained`, explained, 50),
    bounded('sql', `${subject}, as SQL`, written, 50),
  ];
}

function bounded(work: string, subject: string, time: number, bound: number): Result {
  return result(
    work,
    `${subject}, in ${time.toFixed(time < 10 ? 1 : 0)} ms`,
    `the bound of ${bound} ms`,
    bound / time,
    1,
  );
}

/** The median time of some runs after one that is not timed, in milliseconds. */
function timed(work: () => void): number {
  work();
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return median(times);
}
