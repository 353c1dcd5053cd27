import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import mysql from 'mysql2/promise';
import { demoAccount } from '../demo/scenario.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { openDatabase } from '../server/tables.ts';
import { addHeaviestPages, cookiesOf, heaviest, releaseAll, signedIn } from './heaviest.ts';
import { load, rounds, type Target } from './load.ts';
import { median, type Result, result } from './result.ts';
import { processorTime, type Server, startPlain, startServer, ticksASecond } from './server-process.ts';
import { sized } from './size.ts';

const servers = 3;
const requests = sized(4, 1);
const changes = sized(60, 2);

/**
 * Three servers on one database, each a process of its own: what a request of the heaviest page costs in processor time,
 * signed in, against the same page by one of them alone; and how soon a change that one makes is told by another.
 *
 * More processes than processors cost something by themselves, with fewer requests at a turn and other data in the caches.
 * Three plain servers that send the same bytes pay that too, so that what they pay is taken off.
 */
export async function serversBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await addHeaviestPages();
  await sequelize.close();
  const started = await Promise.all(Array.from({ length: servers }, () => startServer(url)));
  const [one, two] = started;
  if (!one || !two) throw new Error('no server');
  await releaseAll(one.address);
  // The others hear of it.
  await delay(sized(2000, 500));
  const cookie = await signedIn(one.address, 'noor.vale@example.org');
  const pages = started.map(({ address }) => ({ address: `${address}/site/${heaviest}`, cookie }));
  const bytes = await (await fetch(pages[0]?.address ?? '', { headers: { cookie } })).text();
  const plain = await Promise.all(started.map(() => startPlain(bytes)));
  const plainPages = plain.map(({ address }) => ({ address, cookie: '' }));
  for (const targets of [pages, pages.slice(0, 1), plainPages, plainPages.slice(0, 1)])
    await load(...targets);

  const ratios: number[] = [];
  const plainRatios: number[] = [];
  for (let round = 0; round < rounds; round++) {
    ratios.push(await oneOverAll(started, pages));
    plainRatios.push(await oneOverAll(plain, plainPages));
  }
  for (const server of plain) server.process.kill('SIGTERM');

  const delays = await tellingTimes(one.address, two.address);
  for (const server of started) server.process.kill('SIGTERM');
  const connection = await mysql.createConnection(process.env.BENCH_DATABASE_SERVER ?? '');
  await connection.query(`DROP DATABASE \`${name}\``);
  await connection.end();
  const told = median(delays);
  return [
    result(
      'servers',
      `processor time of a request by one of three servers over that by three, 30 slots, 40 audiences, signed in: ${median(ratios).toFixed(2)}`,
      `of plain servers: ${median(plainRatios).toFixed(2)}`,
      median(ratios) / median(plainRatios),
      0.87,
    ),
    result(
      'servers',
      `from a change being stored by one server to another telling of it: ${told.toFixed(0)} ms`,
      'the bound of 150 ms',
      150 / told,
      1,
    ),
  ];
}

/** What a request costs the first of some servers that is asked alone, over what it costs all of them. */
async function oneOverAll(servers: readonly Server[], pages: readonly Target[]): Promise<number> {
  const askedOf = (targets: readonly Target[]) =>
    processorTime(servers.slice(0, targets.length), async () => {
      for (let again = 0; again < requests; again++) await load(...targets);
    });
  const ofOne = await askedOf(pages.slice(0, 1));
  const ofAll = await askedOf(pages);
  return ofOne / Math.max(ofAll, 1 / ticksASecond);
}

/** For some changes that are made by one server, how long after its answer another tells of them, in milliseconds. */
async function tellingTimes(here: string, there: string): Promise<number[]> {
  const json = { 'content-type': 'application/json' };
  const { email, password } = demoAccount;
  const session = await fetch(`${here}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ email, password }),
  });
  const headers = { ...json, cookie: cookiesOf(session) };
  const listening = new AbortController();
  const stream = await fetch(`${there}/api/changes`, { headers, signal: listening.signal });
  if (!stream.body) throw new Error('there is no stream of changes');
  let seen: (() => void) | undefined;
  const reading = (async () => {
    for await (const chunk of stream.body ?? [])
      if (Buffer.from(chunk).toString('utf8').includes('"contact"')) seen?.();
  })().catch(() => undefined);
  const times: number[] = [];
  for (let n = 0; n < changes; n++) {
    const isSeen = new Promise<number>((resolve) => {
      seen = () => resolve(performance.now());
    });
    const made = await fetch(`${here}/api/contacts`, {
      method: 'POST',
      headers,
      body: JSON.stringify({ email: `told.${n}@example.org`, values: {} }),
    });
    if (made.status !== 201) throw new Error(`the change was refused: ${await made.text()}`);
    await made.text();
    const answered = performance.now();
    times.push(Math.max(1, (await isSeen) - answered));
    await delay(Math.random() * 100);
  }
  listening.abort();
  await reading;
  return times;
}
