import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import mysql, { type Connection } from 'mysql2/promise';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { alone } from './alone.ts';

const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
let connections: Connection[];
beforeAll(async () => {
  const server = process.env.TEST_DATABASE_SERVER ?? '';
  const first = await mysql.createConnection(server);
  await first.query(`CREATE DATABASE \`${name}\``);
  await first.end();
  connections = await Promise.all(
    Array.from({ length: 5 }, () => mysql.createConnection(`${server}/${name}`)),
  );
});
afterAll(async () => {
  await connections[0]?.query(`DROP DATABASE \`${name}\``);
  for (const connection of connections) await connection.end();
});

it('lets one after another do their work, also in a database that is new', async () => {
  let inside = 0;
  let most = 0;
  const done = await Promise.all(
    connections.map((connection, index) =>
      alone(connection, async () => {
        most = Math.max(most, ++inside);
        await delay(20);
        inside--;
        return index;
      }),
    ),
  );
  expect(done).toEqual([0, 1, 2, 3, 4]);
  expect(most).toBe(1);
});

it('lets the next one in after work that failed, and after one who died', async () => {
  const [one, other] = connections;
  if (!one || !other) throw new Error('no connection');
  await expect(alone(one, () => Promise.reject(new Error('failed')))).rejects.toThrow('failed');
  expect(await alone(other, async () => 'mine')).toBe('mine');
  // As left by somebody who is gone, whose time ends now.
  await one.query("UPDATE starts SET holder = 'gone', until = NOW(3) + INTERVAL 1 SECOND");
  expect(await alone(other, async () => 'after them')).toBe('after them');
});
