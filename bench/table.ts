import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import type { z } from 'zod';
import { type Import, type ImportStatus, importSchema } from '../contract/imports.ts';
import { contactPageSchema } from '../contract/people.ts';
import { all, any, not, test } from '../core/conditions/condition.ts';
import { type RunningApp, startApp } from '../server/app.ts';
import { readConfiguration } from '../server/configuration.ts';
import { openDatabase } from '../server/tables.ts';
import { crowdedDatabase, folder, signedIn } from './crowded-database.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

const people = sized(1_000_000, 20_000);
const rounds = sized(7, 1);
const bound = 300;
const fewer = sized(200_000, 5_000);
const firstBound = 1000;

/** What the table of people asks of the server with a million contacts, from the request to the answer. */
export async function tableBench(): Promise<Result[]> {
  const { url, sequelize, connection, drop } = await crowdedDatabase(people);
  const kept = join(folder, 'contacts');
  rmSync(kept, { recursive: true, force: true });
  const configuration = readConfiguration({ DATABASE_URL: url, PORT: '0', CONTACT_FOLDER: kept });
  const app = await startApp(sequelize, configuration);
  const read = await inMemory(app);
  const cookie = await signedIn(app.address);
  const lookup = await timed(() =>
    connection.query('SELECT * FROM contacts WHERE id = ?', [Math.round(people * 0.77)]),
  );
  // The first question is what makes the order of names; how long that one takes is a row of its own.
  await fetch(`${app.address}/api/contacts?sort=name`, { headers: { cookie } });
  await setTimeout(sized(10_000, 0));
  const results: Result[] = [];
  const where = JSON.stringify(test('visits', 'at-least', 5));
  for (const [subject, query] of [
    ['the first page', 'sort=name'],
    ['a sort by a number', 'sort=visits&direction=down'],
    ['a sort by a choice', 'sort=country'],
    ['a filter', `where=${encodeURIComponent(where)}`],
    ['a search', 'search=tilda%20member77'],
  ] as const) {
    const time = await timed(async () => {
      const response = await fetch(`${app.address}/api/contacts?${query}`, { headers: { cookie } });
      const { matching, total } = (await response.json()) as { matching: number; total: number };
      if (total !== people || matching === 0) throw new Error(`${subject}: ${matching} of ${total}`);
    });
    const named = `${subject} of ${people.toLocaleString('en')} contacts, in ${Math.round(time)} ms`;
    results.push(result('table', named, `the bound of ${bound} ms`, bound / time, 1));
    results.push(result('table', named, 'a lookup by primary key', lookup / time, 0.0002));
  }
  let visits = 0;
  const edited = await timed(async () => {
    // Another number each time, as somebody types it: nothing of the answer is remembered.
    const condition = all(
      any(test('tier', 'at-least', 'tier2'), test('plan', 'is-one-of', 'plan1')),
      test('visits', 'at-least', ++visits),
      not(test('roles', 'includes-any', 'roles3')),
    );
    const count = await fetch(`${app.address}/api/audiences/count`, {
      method: 'POST',
      headers: { cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ condition, audience: null }),
    });
    const { count: found, total } = (await count.json()) as { count: number; total: number };
    if (total !== people || found === 0) throw new Error(`an edited condition: ${found} of ${total}`);
  });
  const subject = `an edited condition of ${people.toLocaleString('en')} contacts counted whole and by its parts, in ${Math.round(edited)} ms`;
  results.push(result('table', subject, `the bound of ${bound} ms`, bound / edited, 1));
  results.push(...(await afterASave(app.address, cookie)));
  await app.stop();
  const again = await startApp(await openDatabase(url), configuration);
  const restored = await inMemory(again);
  await again.stop();
  await drop();
  rmSync(kept, { recursive: true, force: true });
  const start = `all ${people.toLocaleString('en')} contacts in memory after a start`;
  const bounded = (how: string, time: number, most: number) =>
    result('table', `${start}, ${how}, in ${Math.round(time)} ms`, `the bound of ${most} ms`, most / time, 1);
  results.push(bounded('from their rows', read, sized(25_000, 60_000)));
  results.push(bounded('as they were at the last stop', restored, sized(5000, 60_000)));
  return [...results, await firstLook()];
}

/** How much longer the list of names takes right after somebody was given another name, and how an attribute is spread. */
async function afterASave(address: string, cookie: string): Promise<Result[]> {
  const read = async (path: string) => {
    const answer = await fetch(`${address}/api${path}`, { headers: { cookie } });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${text}`);
    return JSON.parse(text);
  };
  const middle = Math.round(people / 2);
  const rename = async (name: string) => {
    const { values, updatedAt } = await read(`/contacts/${middle}`);
    const { email: _, ...own } = values;
    const answer = await fetch(`${address}/api/contacts/${middle}`, {
      method: 'PUT',
      headers: { cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ values: { ...own, 'first-name': name }, mail: true, updatedAt }),
    });
    if (!answer.ok) throw new Error(`renaming: ${answer.status} ${await answer.text()}`);
  };
  const list = async () => {
    const start = performance.now();
    await read('/contacts?sort=name');
    return performance.now() - start;
  };
  const [before, after]: [number[], number[]] = [[], []];
  // One goes to the end of the order, and back to its beginning.
  for (let round = 0; round < rounds; round++) {
    before.push(await list());
    await rename(round % 2 === 0 ? 'Zora' : 'Abel');
    after.push(await list());
  }
  const more = Math.max(1, median(after) - median(before));
  const profile = await timed(() => read('/attributes/city/profile'));
  const of = `${people.toLocaleString('en')} contacts`;
  return [
    result(
      'table',
      `the list of ${of} right after one was renamed, ${Math.round(more)} ms more than before`,
      'the bound of 30 ms',
      30 / more,
      1,
    ),
    result(
      'table',
      `the values of an attribute of ${of}, in ${Math.round(profile)} ms`,
      'the bound of 100 ms',
      100 / profile,
      1,
    ),
  ];
}

/** How long it takes from now until all contacts are in memory, in milliseconds. */
async function inMemory({ people: asked, drafts }: RunningApp): Promise<number> {
  const start = performance.now();
  await asked.asks.some(asked.scopeOf(await drafts.snapshot()), asked.now(), any(), 1);
  return performance.now() - start;
}

/** The first page right after 200,000 people were imported, before any of them is in memory. */
async function firstLook(): Promise<Result> {
  const { url, sequelize, drop } = await crowdedDatabase(0);
  const app = await startApp(sequelize, readConfiguration({ DATABASE_URL: url, PORT: '0' }));
  const cookie = await signedIn(app.address);
  const ask = async <Output>(method: string, path: string, schema: z.ZodType<Output>, body?: BodyInit) => {
    const type = typeof body === 'string' ? 'application/json' : 'application/octet-stream';
    const headers = { cookie, ...(body !== undefined && { 'content-type': type }) };
    const response = await fetch(`${app.address}/api${path}`, { method, headers, body: body ?? null });
    return schema.parse(await response.json());
  };
  const rows = Array.from({ length: fewer }, (_, at) => `look${at}@example.org,Nell,Look${at},${at % 40}`);
  const file = new Blob([['email,First name,Last name,visits', ...rows].join('\n')]);
  const { id } = await ask('POST', '/imports?name=look.csv', importSchema, file);
  const once = async (status: ImportStatus): Promise<Import> => {
    for (;;) {
      const one = await ask('GET', `/imports/${id}`, importSchema);
      if (one.status === status) return one;
      if (one.failure !== null) throw new Error(one.failure);
      await setTimeout(20);
    }
  };
  const { plan } = await once('read');
  await ask('PUT', `/imports/${id}/plan`, importSchema, JSON.stringify(plan));
  await once('checked');
  await ask('POST', `/imports/${id}/run`, importSchema);
  await once('imported');
  const start = performance.now();
  const { total, contacts } = await ask('GET', '/contacts?sort=name', contactPageSchema);
  const time = performance.now() - start;
  if (total !== fewer || contacts.length === 0)
    throw new Error(`the first look: ${contacts.length} of ${total}`);
  await app.stop();
  await drop();
  const subject = `the first page right after an import of ${fewer.toLocaleString('en')} people, in ${Math.round(time)} ms`;
  return result('table', subject, `the bound of ${firstBound} ms`, firstBound / time, 1);
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  await work();
  const times: number[] = [];
  for (let round = 0; round < rounds; round++) {
    const start = performance.now();
    await work();
    times.push(performance.now() - start);
  }
  return median(times);
}
