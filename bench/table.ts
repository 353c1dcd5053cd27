import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { createReadStream, createWriteStream, rmSync } from 'node:fs';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import mysql, { type QueryOptions } from 'mysql2/promise';
import { all, any, not, test } from '../core/conditions/condition.ts';
import { demoAccount } from '../demo/scenario.ts';
import { startApp } from '../server/app.ts';
import { loadDemoWhenEmpty } from '../server/services/demo.ts';
import { openDatabase } from '../server/store/database.ts';
import { displayName } from '../server/store/display-name.ts';
import { AttributeRow, ContactRow } from '../server/store/models.ts';
import { attributes, crowd } from './crowd.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

const people = sized(1_000_000, 20_000);
const rounds = sized(7, 1);
const bound = 300;
const folder = '.data-bench';
const firstNames = ['Ada', 'Bo', 'Cleo', 'Édouard', 'Flora', 'Nell', 'Tilda', 'Umar', 'Wanda', 'Zora'];

/** What the table of people asks of the server with a million contacts, from the request to the answer. */
export async function tableBench(): Promise<Result[]> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await ContactRow.destroy({ where: {} });
  await AttributeRow.bulkCreate(
    attributes.map((definition, position) => ({ id: definition.id, position, definition })),
    { updateOnDuplicate: ['definition'] },
  );
  const connection = await mysql.createConnection({ uri: url, charset: 'utf8mb4', timezone: 'Z' });
  await fill(connection);
  const app = await startApp(sequelize, 0, folder);
  const session = await fetch(`${app.address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: demoAccount.email, password: demoAccount.password }),
  });
  const cookie = session.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
  const lookup = await timed(() =>
    connection.query('SELECT * FROM contacts WHERE id = ?', [Math.round(people * 0.77)]),
  );
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
  await connection.query(`DROP DATABASE \`${name}\``);
  await connection.end();
  await app.stop();
  return results;
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

async function fill(connection: mysql.Connection): Promise<void> {
  const path = join(folder, 'million.tsv');
  const file = createWriteStream(path);
  let id = 0;
  for (const { values } of crowd(people, 3)) {
    id++;
    const all = { 'first-name': firstNames[id % 10], 'last-name': `Member${id}`, ...values };
    const email = `member${id}@example.org`;
    const line = [
      id,
      email,
      email,
      displayName(all, email),
      JSON.stringify(all).replaceAll('\\', '\\\\'),
    ].join('\t');
    if (!file.write(`${line}\n`)) await once(file, 'drain');
  }
  file.end();
  await finished(file);
  const options: QueryOptions & { infileStreamFactory: () => NodeJS.ReadableStream } = {
    sql: "LOAD DATA LOCAL INFILE 'rows' INTO TABLE contacts (id, email, emailKey, name, `values`)",
    infileStreamFactory: () => createReadStream(path),
  };
  await connection.query(options);
  rmSync(path);
}
