import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { createReadStream, createWriteStream, rmSync } from 'node:fs';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import mysql, { type QueryOptions } from 'mysql2/promise';
import type { Sequelize } from 'sequelize';
import { demoAccount } from '../demo/scenario.ts';
import { loadDemoWhenEmpty } from '../server/demo/rows.ts';
import { displayName } from '../server/people/display-name.ts';
import { AttributeRow, ContactRow } from '../server/people/rows.ts';
import { inTransaction } from '../server/store/transaction.ts';
import { openDatabase } from '../server/tables.ts';
import { attributes, crowd } from './crowd.ts';

export const folder = '.data-bench';
const firstNames = ['Ada', 'Bo', 'Cleo', 'Édouard', 'Flora', 'Nell', 'Tilda', 'Umar', 'Wanda', 'Zora'];

/** A database with the demo's workspace whose contacts are a crowd of people; `drop` removes it again. */
export interface CrowdedDatabase {
  readonly url: string;
  readonly sequelize: Sequelize;
  readonly connection: mysql.Connection;
  drop(): Promise<void>;
}

export async function crowdedDatabase(people: number): Promise<CrowdedDatabase> {
  const name = `apple_porch_bench_${randomBytes(6).toString('hex')}`;
  const url = `${process.env.BENCH_DATABASE_SERVER}/${name}`;
  const sequelize = await openDatabase(url);
  await loadDemoWhenEmpty(Date.now());
  await inTransaction(async (transaction) => {
    await ContactRow.destroy({ where: {}, transaction });
    await AttributeRow.bulkCreate(
      attributes.map((definition, position) => ({ id: definition.id, position, definition })),
      { updateOnDuplicate: ['definition'], transaction },
    );
  });
  const connection = await mysql.createConnection({ uri: url, charset: 'utf8mb4', timezone: 'Z' });
  await fill(connection, people);
  return {
    url,
    sequelize,
    connection,
    async drop() {
      await connection.query(`DROP DATABASE \`${name}\``);
      await connection.end();
    },
  };
}

/** The cookies of a session of the demo's marketer. */
export async function signedIn(address: string): Promise<string> {
  const session = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: demoAccount.email, password: demoAccount.password }),
  });
  return session.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
}

async function fill(connection: mysql.Connection, people: number): Promise<void> {
  const path = join(folder, 'crowd.tsv');
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
