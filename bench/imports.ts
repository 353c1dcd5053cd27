import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { createReadStream, createWriteStream, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import mysql, { type Connection, type QueryOptions, type RowDataPacket } from 'mysql2/promise';
import { Catalogue } from '../core/attributes/catalogue.ts';
import { guessPlan } from '../core/exchange/guess.ts';
import { demoAttributes, demoSettings } from '../demo/scenario.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { surveyFile } from '../server/imports/import-file.ts';
import { type ImportTask, runImport } from '../server/imports/import-people.ts';
import { ContactRow } from '../server/people/rows.ts';
import { openDatabase } from '../server/tables.ts';
import { median, type Result, result } from './result.ts';
import { sized } from './size.ts';

/** How many people are imported, and how often. */
const sizes = sized<readonly (readonly [number, number])[]>(
  [
    [100_000, 3],
    [1_000_000, 1],
  ],
  [[2000, 1]],
);
/** How many rows are read at a time. */
const rowsAtATime = 50_000;
const folder = '.data-bench';
const columns =
  'email,first name,last name,membership tier,plan,city,country,language,visits this year,orders,last gift,joined,tags,telescope owned,Loyalty points';

/**
 * People of 15 columns from a CSV file to the tables of contacts and of what happened to them, against MariaDB's
 * own LOAD DATA of the very rows that come out, into the same tables, which hold the people of the demo already.
 */
export async function importsBench(): Promise<Result[]> {
  const results: Result[] = [];
  for (const [people, rounds] of sizes) results.push(await importOf(people, rounds));
  return results;
}

async function importOf(people: number, rounds: number): Promise<Result> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  const connection = await mysql.createConnection({ uri: url, charset: 'utf8mb4', timezone: 'Z' });
  const path = join(folder, 'people.csv');
  const tables = { contacts: join(folder, 'contacts.tsv'), contact_changes: join(folder, 'changes.tsv') };
  await writeLines(path, peopleCsv(people));
  const survey = await surveyFile(path, statSync(path).size, () => {});
  const { attributes } = new Catalogue(demoAttributes, demoSettings.zone);
  const task: ImportTask = {
    path,
    bytes: statSync(path).size,
    survey,
    plan: guessPlan(survey.columns, attributes),
    attributes,
    cause: { source: 'import', accountName: 'Maya Brook', importId: 1 },
  };
  const known = await ContactRow.max<number, ContactRow>('id');
  const ratios: number[] = [];
  for (let round = 0; round < rounds; round++) {
    await empty(connection, known);
    const start = performance.now();
    const report = await runImport(connection, task, () => {});
    const own = performance.now() - start;
    if (report.added !== people) throw new Error(`only ${report.added} people were imported`);
    if (round === 0) await writeTables(connection, tables, known);
    await empty(connection, known);
    const peerStart = performance.now();
    await load(connection, tables);
    ratios.push((3 * (performance.now() - peerStart)) / own);
    const loaded = await ContactRow.count();
    if (loaded !== known + people) throw new Error(`LOAD DATA left ${loaded} contacts`);
  }
  await connection.query(`DROP DATABASE \`${name}\``);
  await connection.end();
  await sequelize.close();
  for (const file of [path, ...Object.values(tables)]) rmSync(file);
  const subject = `${people.toLocaleString('en')} people of 15 columns, read, checked, stored with their history`;
  return result('import', subject, 'three times LOAD DATA of the same rows', median(ratios), 1);
}

function* peopleCsv(people: number): Generator<string> {
  yield columns;
  const pick = (list: readonly string[], at: number) => list[at % list.length] ?? '';
  for (let at = 0; at < people; at++)
    yield [
      `visitor${at}@example.org`,
      'Nell',
      `Marlow ${at}`,
      pick(['Dusk', 'Twilight', 'Midnight', ''], at),
      pick(['Almanac Digital', 'Almanac Print'], at),
      pick(['Tarnley', 'Ashwold', 'Larkhaven'], at),
      'United Kingdom',
      'English',
      at % 9,
      at % 5,
      (at % 400) / 4,
      `202${at % 6}-0${(at % 9) + 1}-1${at % 10}`,
      pick(['family', 'Moon; family', 'planets'], at),
      pick(['Refractor', 'Newtonian', ''], at),
      at % 100,
    ].join();
}

/** As it was before: with the people of the demo, who are there from the beginning. */
async function empty(connection: Connection, known: number): Promise<void> {
  await connection.query('DELETE FROM contacts WHERE id > ?', [known]);
  await connection.query("DELETE FROM attributes WHERE id = 'loyalty-points'");
}

const contactFields = [
  'id',
  'email',
  'emailKey',
  'externalId',
  'name',
  '`values`',
  'folded',
  'createdAt',
  'updatedAt',
];
const changeFields = ['id', 'contactId', 'at', 'kind', 'source', 'accountName', 'importId', 'fields'];

/** The rows as they are stored, in the form that LOAD DATA reads by itself. */
async function writeTables(
  connection: Connection,
  { contacts, contact_changes }: { contacts: string; contact_changes: string },
  known: number,
): Promise<void> {
  for (const [table, fields, key, file] of [
    ['contacts', contactFields, 'id', contacts],
    ['contact_changes', changeFields, 'contactId', contact_changes],
  ] as const) {
    await writeLines(file, storedLines(connection, { table, fields, key }, known));
  }
}

async function* storedLines(
  connection: Connection,
  { table, fields, key }: { table: string; fields: readonly string[]; key: string },
  known: number,
): AsyncGenerator<string> {
  const [[last]] = await connection.query<RowDataPacket[]>(`SELECT MAX(${key}) AS id FROM ${table}`);
  for (let from = known; from < last?.id; from += rowsAtATime) {
    const [rows] = await connection.query<RowDataPacket[]>({
      sql: `SELECT ${fields.join()} FROM ${table} WHERE ${key} > ${from} AND ${key} <= ${from + rowsAtATime}`,
      rowsAsArray: true,
      dateStrings: true,
    });
    for (const row of rows)
      yield [...(row as unknown as unknown[])]
        .map((value) => (value === null ? '\\N' : textOf(value).replaceAll('\\', '\\\\')))
        .join('\t');
  }
}

async function load(
  connection: Connection,
  files: { contacts: string; contact_changes: string },
): Promise<void> {
  for (const [table, fields, file] of [
    ['contacts', contactFields, files.contacts],
    ['contact_changes', changeFields, files.contact_changes],
  ] as const) {
    const options: QueryOptions & { infileStreamFactory: () => NodeJS.ReadableStream } = {
      sql: `LOAD DATA LOCAL INFILE 'rows' INTO TABLE ${table} (${fields.join()})`,
      infileStreamFactory: () => createReadStream(file),
    };
    await connection.query(options);
  }
}

function textOf(value: unknown): string {
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

async function writeLines(path: string, lines: Iterable<string> | AsyncIterable<string>): Promise<void> {
  const file = createWriteStream(path);
  for await (const line of lines) if (!file.write(`${line}\n`)) await once(file, 'drain');
  file.end();
  await finished(file);
}
