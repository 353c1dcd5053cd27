import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { Random } from '../../demo/random.ts';
import { startCluster } from '../../scripts/cluster.mjs';
import { type Answer, Caller, sendEmail } from '../server/instance.ts';
import { TestServer } from './servers.ts';

// Three nodes of MariaDB (Galera) and three servers, of which one after another is killed while people work. Each server
// begins with another node, so that all nodes are written to.

const kills = Number(process.env.KILLS ?? 20);
const random = new Random(Number(process.env.SEED ?? 1));
/** Longest that a change may take that is made at all, in milliseconds. */
const longestWait = 16_000;

const folder = mkdtempSync(join(tmpdir(), 'apple-porch-cluster-'));
let cluster: Awaited<ReturnType<typeof startCluster>>;
let servers: TestServer[];

beforeAll(async () => {
  cluster = await startCluster(folder);
  const ports = cluster.nodes.map(({ port }) => port);
  servers = ports.map((_, at) => {
    const hosts = [...ports.slice(at), ...ports.slice(0, at)].map((port) => `127.0.0.1:${port}`).join(',');
    return new TestServer(cluster.url('apple_porch').replace(/@[^/]*\//, `@${hosts}/`));
  });
  await Promise.all(servers.map((server) => server.start()));
});
afterAll(async () => {
  for (const server of servers ?? []) await server.kill('SIGKILL');
  await cluster?.stop();
  rmSync(folder, { recursive: true, force: true });
});

let isOver = false;
const living = () => random.pick(servers.filter(({ isAlive }) => isAlive) as [TestServer, ...TestServer[]]);

/** What was acknowledged, and has to be there in the end. */
const acknowledged = {
  cities: new Map<number, string[]>(),
  people: [] as string[],
  answers: [] as string[],
  releases: [] as number[],
};
const counts = { done: 0, refused: 0, longest: 0, asked: 0 };
const troubles: string[] = [];
/** How often a change was refused, by the words of the refusal. */
const reasons = new Map<string, number>();

/** Asks for a change; the answer, or undefined where it is not known whether it was made. */
async function change(ask: () => Promise<Answer>): Promise<Answer | undefined> {
  const began = Date.now();
  try {
    const answer = await ask();
    counts.longest = Math.max(counts.longest, Date.now() - began);
    if (answer.status < 400) counts.done++;
    else {
      counts.refused++;
      reasons.set(answer.text.slice(0, 120), (reasons.get(answer.text.slice(0, 120)) ?? 0) + 1);
    }
    if (answer.status >= 500 && answer.status !== 503)
      troubles.push(`${answer.status}: ${answer.text.slice(0, 200)}`);
    return answer.status < 400 ? answer : undefined;
  } catch {
    counts.refused++;
    return undefined;
  }
}

/** Somebody who changes contacts of their own, adds people and releases, by whichever server lives. */
async function marketer(which: number): Promise<void> {
  const me = await new Caller(living().address).signIn();
  for (let n = 0; !isOver; n++) {
    const caller = me.at(living().address);
    const id = which * 100 + random.between(1, 50);
    const city = `City ${which}-${n}`;
    await change(async () => {
      const { body } = await caller.get(`/api/contacts/${id}`);
      const tried = acknowledged.cities.get(id) ?? [];
      // Unacknowledged ones may have been stored all the same.
      acknowledged.cities.set(id, [...tried, `? ${city}`]);
      const answer = await caller.call('PUT', `/api/contacts/${id}`, {
        updatedAt: body?.updatedAt,
        values: { city },
      });
      if (answer.status === 200) acknowledged.cities.set(id, [city]);
      return answer;
    });
    const email = `person.${which}.${n}@example.org`;
    if (await change(() => caller.call('POST', '/api/contacts', { email, values: {} })))
      acknowledged.people.push(email);
    if (which === 1 && n % 10 === 0) {
      await change(async () => {
        const stored = (await caller.get('/api/documents/survey')).body;
        return caller.call('PUT', '/api/documents/survey', { ...stored, name: `Survey ${n}` });
      });
      const made = await change(async () => {
        const { fingerprint } = (await caller.get('/api/releases/pending')).body ?? {};
        return caller.call('POST', '/api/releases', { note: `${n}`, fingerprint });
      });
      if (made) acknowledged.releases.push(made.body.id);
    }
    await delay(random.between(50, 300));
  }
}

/** Visitors who answer the survey. */
async function visitors(): Promise<void> {
  for (let n = 0; !isOver; n++) {
    const visitor = new Caller(living().address);
    const email = `gazer.${n}@example.org`;
    const answer = await change(async () => {
      const { text } = await visitor.get('/site/survey');
      const action = /action="(\/site\/forms\/[^"]+)"/.exec(text)?.[1] ?? '/site/forms/none';
      const network = { 'x-forwarded-for': `203.0.113.${n % 250}` };
      return visitor.call('POST', action, new URLSearchParams({ email, tags: 'moon' }), network);
    });
    if (answer) acknowledged.answers.push(email);
    await delay(300);
  }
}

/** Whether the site answers all the while, whatever happens below. */
async function watchSite(): Promise<void> {
  while (!isOver) {
    const server = living();
    try {
      const answer = await fetch(`${server.address}/site/`, { signal: AbortSignal.timeout(5000) });
      counts.asked++;
      if (answer.status !== 200) troubles.push(`the site answered ${answer.status}`);
      await answer.text();
    } catch (error) {
      // It may have been killed just now.
      await delay(200);
      if (server.isAlive) troubles.push(`the site did not answer: ${error}`);
    }
    await delay(100);
  }
}

async function killing(): Promise<void> {
  for (let n = 0; n < kills; n++) {
    await delay(random.between(2000, 5000));
    const node = cluster.nodes[random.between(0, cluster.nodes.length - 1)];
    const target: Startable = node && random.chance(0.5) ? node : living();
    await target.kill('SIGKILL');
    await delay(random.between(1000, 6000));
    await target.start();
  }
}

interface Startable {
  readonly isAlive: boolean;
  start(): Promise<void>;
  kill(signal: NodeJS.Signals): Promise<void>;
}

it(`loses and doubles nothing while nodes and servers are killed ${kills} times`, async () => {
  const working = [marketer(1), marketer(2), marketer(3), visitors(), watchSite()];
  const sender = await new Caller(living().address).signIn();
  const sent = await sender.call('POST', '/api/sends', {
    document: 'monthly-almanac',
    contacts: [],
    audience: 'any-member',
  });
  expect(sent.status).toBe(202);
  await killing();
  isOver = true;
  await Promise.all(working);
  process.stdout.write(`${JSON.stringify({ ...counts, reasons: [...reasons] })}\n`);

  expect(troubles).toEqual([]);
  expect(counts.longest).toBeLessThan(longestWait);
  expect(counts.done).toBeGreaterThan(10 * counts.refused);
  const caller = await new Caller(living().address).signIn();
  for (const [id, cities] of acknowledged.cities) {
    const { city } = (await caller.get(`/api/contacts/${id}`)).body.values;
    expect(cities.map((one) => one.replace('? ', ''))).toContain(city);
  }
  const database = await mysql.createConnection({
    uri: cluster.url('apple_porch').replace(/@[^/]*\//, `@127.0.0.1:${cluster.nodes[0]?.port}/`),
  });
  const [rows] = await database.query<mysql.RowDataPacket[]>(
    'SELECT email, COUNT(*) AS times FROM contacts GROUP BY email',
  );
  const times = new Map(rows.map((row) => [String(row.email), Number(row.times)]));
  for (const email of [...acknowledged.people, ...acknowledged.answers])
    expect([email, times.get(email)]).toEqual([email, 1]);
  const [releases] = await database.query<mysql.RowDataPacket[]>('SELECT id FROM releases');
  expect(releases.map(({ id }) => id)).toEqual(expect.arrayContaining(acknowledged.releases));

  const report = await until(caller, `/api/sends/${sent.body.id}`);
  expect(report.waiting).toBe(0);
  const [twice] = await database.query<mysql.RowDataPacket[]>(
    'SELECT recipient FROM standin_mailbox GROUP BY recipient HAVING COUNT(*) > 1',
  );
  expect(twice).toEqual([]);
  await database.end();
  expect((await sendEmail(caller, { contacts: [1] })).body.sent).toBe(1);
});

async function until(caller: Caller, path: string) {
  for (;;) {
    const { body } = await caller.get(path);
    if (body?.isFinished) return body;
    await delay(200);
  }
}
