import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { QueryTypes, type Sequelize } from 'sequelize';
import { startApp } from '../server/app.ts';
import { readConfiguration } from '../server/configuration.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { openDatabase } from '../server/tables.ts';
import { addHeaviestPages, heaviest, ofVisit, releaseAll, signedIn } from './heaviest.ts';
import { load, requestsARound, rounds } from './load.ts';
import { listening, plainServer } from './plain-server.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

/** How long nothing is asked, to see what is done by the clock, in milliseconds. */
const idle = sized(20_000, 500);
const manyRequests = sized(200_000, 200);

/**
 * Requests per second of the live site against the same Express with the same security headers sending the same bytes
 * unchanged, asked in turn from this process: the demo's home page, and a page of 30 slots over 40 audiences as it is for
 * anonymous visitors, for visitors whose visit decides, and for somebody signed in. Then 200,000 requests: what they leave
 * in memory, and how many questions to the database they ask.
 */
export async function siteBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await addHeaviestPages();
  const app = await startApp(
    sequelize,
    readConfiguration({ DATABASE_URL: url, PORT: '0', LOG_LEVEL: 'error' }),
  );
  await releaseAll(app.address);
  const member = await signedIn(app.address, 'noor.vale@example.org');

  const results: Result[] = [];
  for (const [subject, path, cookie] of [
    ['the home page', '/site/', ''],
    ['30 slots, 40 audiences, anonymous', `/site/${heaviest}`, ''],
    ['30 slots, 41 audiences, anonymous, decided by the visit', `/site/${ofVisit}`, ''],
    ['30 slots, 40 audiences, signed in', `/site/${heaviest}`, member],
  ] as const) {
    const own = { address: app.address + path, cookie };
    const bytes = await (await fetch(own.address, { headers: { cookie } })).text();
    const peer = { ...(await listening(plainServer(bytes))), cookie: '' };
    for (const of of [own, peer]) await load(of);
    const speeds: number[] = [];
    const tails: number[] = [];
    for (let round = 0; round < rounds; round++) {
      const [mine, theirs] = [await load(own), await load(peer)];
      speeds.push(mine.perSecond / theirs.perSecond);
      tails.push(theirs.p99 / mine.p99);
    }
    peer.stop();
    const same = 'the same bytes unchanged';
    results.push(result('site', `${subject}: requests per second`, same, median(speeds), 0.7));
    results.push(result('site', `${subject}: p99`, `${same}, three times`, 3 * median(tails), 1));
  }

  const collect = collector();
  const anonymous = { address: `${app.address}/site/${ofVisit}`, cookie: '' };
  for (let round = 0; round < 3; round++) await load(anonymous);
  collect();
  const before = process.memoryUsage().heapUsed;
  const byTheClock = await questionsAMillisecond(sequelize);
  const questionsBefore = await questionsOf(sequelize);
  const start = performance.now();
  for (let sent = 0; sent < manyRequests; sent += requestsARound) await load(anonymous);
  const expected = byTheClock * (performance.now() - start);
  const asked = Math.max(0, Math.round((await questionsOf(sequelize)) - questionsBefore - expected));
  collect();
  const grown = Math.max(1, process.memoryUsage().heapUsed - before) / 2 ** 20;
  results.push(
    result(
      'site',
      `memory kept after ${manyRequests.toLocaleString('en')} requests, ${grown.toFixed(1)} MiB`,
      'the bound of 4 MiB',
      4 / grown,
      1,
    ),
    result(
      'site',
      `questions to the database in ${manyRequests.toLocaleString('en')} anonymous requests: ${asked}`,
      'those that are asked by the clock, which are taken off',
      1 / (1 + asked / manyRequests),
      0.999,
    ),
  );
  await sequelize.query(`DROP DATABASE \`${name}\``);
  await app.stop();
  return results;
}

/** How many questions the database was asked so far, by its own count. */
async function questionsOf(sequelize: Sequelize): Promise<number> {
  const rows = await sequelize.query<{ Value: string }>("SHOW GLOBAL STATUS LIKE 'Com_select'", {
    type: QueryTypes.SELECT,
  });
  return Number(rows[0]?.Value ?? 0);
}

/** How many questions a server asks by the clock while nobody asks it anything, such as what others changed. */
async function questionsAMillisecond(sequelize: Sequelize): Promise<number> {
  const before = await questionsOf(sequelize);
  await delay(idle);
  return ((await questionsOf(sequelize)) - before) / idle;
}

/** Frees what nobody holds any more, so that only what is kept is counted. */
function collector(): () => void {
  setFlagsFromString('--expose-gc');
  return runInNewContext('gc') as () => void;
}
