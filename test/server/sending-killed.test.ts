import { setTimeout as delay } from 'node:timers/promises';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { Random } from '../../demo/random.ts';
import { Caller } from './instance.ts';
import { SeveralServers } from './several-servers.ts';

// A server that dies while it sends is followed by another, and nobody gets a message twice.

const random = new Random(Number(process.env.SEED ?? 5));
let several: SeveralServers;
beforeAll(async () => {
  several = await SeveralServers.start(1);
});
afterAll(() => several.stop());

it('is gone on with where its server was killed, and writes to nobody twice', async () => {
  const [first] = several.servers;
  const marketer = await new Caller(first?.address ?? '').signIn();
  const request = { document: 'monthly-almanac', contacts: [], audience: 'any-member' };
  const begun = await marketer.call('POST', '/api/sends', request);
  expect(begun.status).toBe(202);
  const path = `/api/sends/${begun.body.id}`;
  const least = random.between(20, 200);
  const { recipients, isFinished } = await until(marketer, path, ({ sent }) => sent > least);
  expect(isFinished).toBe(false);
  first?.process.kill('SIGKILL');
  const next = await several.add();
  const report = await until(marketer.at(next.address), path, (one) => one.isFinished);
  expect(report.sent + report.refused.length + report.unsure.length).toBe(recipients);
  expect(report.waiting).toBe(0);
  // No more than what was on its way at that moment.
  expect(report.unsure.length).toBeLessThanOrEqual(20);

  const database = await mysql.createConnection(several.databaseUrl);
  const [twice] = await database.query<mysql.RowDataPacket[]>(
    'SELECT recipient FROM standin_mailbox GROUP BY recipient HAVING COUNT(*) > 1',
  );
  expect(twice).toEqual([]);
  const [[got]] = await database.query<mysql.RowDataPacket[]>(
    'SELECT COUNT(*) AS messages FROM standin_mailbox',
  );
  await database.end();
  expect(Number(got?.messages)).toBeGreaterThanOrEqual(report.sent);
  expect(Number(got?.messages)).toBeLessThanOrEqual(report.sent + report.unsure.length);
});

async function until(caller: Caller, path: string, isSo: (report: Report) => boolean): Promise<Report> {
  for (;;) {
    const { body } = await caller.get(path);
    if (isSo(body)) return body;
    await delay(50);
  }
}

interface Report {
  readonly isFinished: boolean;
  readonly recipients: number;
  readonly sent: number;
  readonly waiting: number;
  readonly refused: readonly unknown[];
  readonly unsure: readonly unknown[];
}
