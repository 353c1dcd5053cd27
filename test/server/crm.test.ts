import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { CrmStatus, CrmSwitches } from '../../contract/crm.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { type CrmStandIn, crmKey } from '../../server/standins/crm.ts';
import { SettingRow } from '../../server/store/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { Caller, type Instance, startInstance } from './instance.ts';

const calm: CrmSwitches = { slowMs: 0, failEvery: 0, limitEvery: 0, malformed: false, duplicates: false };
let instance: Instance;
let studio: Caller;
let outside: CrmStandIn;
beforeAll(async () => {
  // Services that the tests make up stand on this machine.
  process.env.PRIVATE_HOSTS = '127.0.0.1';
  instance = await startInstance();
  studio = instance.studio;
  if (!instance.app.crmStandIn) throw new Error('the demo has no stand-in');
  outside = instance.app.crmStandIn;
});
afterAll(async () => {
  delete process.env.PRIVATE_HOSTS;
  await instance.stop();
});
beforeEach(async () => {
  outside.setSwitches(calm);
  await inTransaction(async (transaction) => {
    await ContactRow.destroy({ where: {}, transaction });
    await SettingRow.destroy({ where: { key: ['crm', 'crm-state'] }, transaction });
  });
});

const status = async (caller = studio): Promise<CrmStatus> => (await caller.get('/api/crm')).body;

async function ended(caller = studio): Promise<CrmStatus> {
  for (let tries = 0; tries < 1500; tries++) {
    const now = await status(caller);
    if (!now.running) return now;
    await wait(20);
  }
  throw new Error('the sync never ended');
}

async function synced(): Promise<CrmStatus> {
  expect((await studio.call('POST', '/api/crm/sync')).status).toBe(202);
  return ended();
}

/** Their contacts as they are stored here, by their ids. */
async function theirs(): Promise<
  Map<string, { id: number; email: string; values: Record<string, unknown> }>
> {
  const rows = await ContactRow.findAll({ raw: true });
  return new Map(
    rows.flatMap(({ id, externalId, email, values }) =>
      externalId ? [[externalId, { id, email, values }]] : [],
    ),
  );
}

async function configure(change: Partial<CrmStatus['settings']>): Promise<void> {
  const { settings } = await status();
  expect((await studio.call('PUT', '/api/crm', { ...settings, ...change })).status).toBe(200);
}

describe('a sync', () => {
  it('brings everybody, then only what changed, and says so in each history', async () => {
    const first = await synced();
    expect(first.result).toMatchObject({
      pages: 7,
      added: 640,
      changed: 0,
      skipped: 0,
      retries: 0,
      error: null,
    });
    const [record] = outside.records;
    if (!record) throw new Error('no record');
    const here = (await theirs()).get(record.id);
    expect(here).toMatchObject({
      email: record.email,
      values: { 'first-name': record.given_name, stage: record.stage },
    });
    expect((await studio.get(`/api/contacts?search=${record.email}`)).body.matching).toBe(1);
    expect((await synced()).result).toMatchObject({ pages: 1, added: 0, changed: 0, unchanged: 0 });
    outside.edit(record.id, { stage: record.stage === 'patron' ? 'lapsed' : 'patron', lists: [] });
    expect((await synced()).result).toMatchObject({ pages: 1, changed: 1 });
    const { body: history } = await studio.get(`/api/contacts/${here?.id}/history`);
    expect(history.map(({ kind, source }: { kind: string; source: string }) => `${kind} ${source}`)).toEqual([
      'changed sync',
      'added sync',
    ]);
  });

  it('takes in who is known by the address, once', async () => {
    const [record] = outside.records;
    const person = { email: record?.email.toUpperCase() ?? '', name: 'x', values: { city: 'Tarnley' } };
    await inTransaction((transaction) => ContactRow.create(person, { transaction }));
    expect((await synced()).result).toMatchObject({ added: 639, changed: 1 });
    expect((await theirs()).get(record?.id ?? '')?.values).toMatchObject({
      city: 'Tarnley',
      stage: record?.stage,
    });
  });

  it.each([
    ['theirs', 'lapsed', 0],
    ['ours', 'patron', 1],
    ['newer', 'patron', 1],
  ] as const)('keeps what the rule “%s” says where both sides changed', async (conflict, wanted, kept) => {
    await configure({ conflict });
    await synced();
    const [record] = outside.records;
    const contact = (await theirs()).get(record?.id ?? '');
    // Over there first, here a moment later.
    outside.edit(record?.id ?? '', { stage: 'lapsed', given_name: 'Renamed' });
    await wait(20);
    const { body } = await studio.get(`/api/contacts/${contact?.id}`);
    await studio.call('PUT', `/api/contacts/${contact?.id}`, {
      values: { stage: 'patron' },
      updatedAt: body.updatedAt,
    });
    const { result } = await synced();
    expect(result?.kept).toBe(body.values.stage === 'patron' ? 0 : kept);
    expect((await theirs()).get(record?.id ?? '')?.values).toMatchObject({
      stage: body.values.stage === 'patron' ? 'lapsed' : wanted,
      'first-name': 'Renamed',
    });
  });

  it('is exact although their service fails, asks for patience, and sends records twice or broken', async () => {
    outside.setSwitches({ slowMs: 1, failEvery: 3, limitEvery: 5, malformed: true, duplicates: true });
    const { result } = await synced();
    expect(result).toMatchObject({ pages: 7, added: 640, error: null, skipped: 28 });
    expect(result?.retries).toBeGreaterThan(3);
    expect(result?.reasons.map(({ reason }) => reason)).toEqual(
      expect.arrayContaining([
        'is there twice',
        'has no id',
        'is no record',
        '“no address” is not an email address',
      ]),
    );
    expect((await theirs()).size).toBe(640);
  });

  it('never blocks editing, stops where it is told to, and goes on from there', async () => {
    await synced();
    await inTransaction((transaction) => SettingRow.destroy({ where: { key: 'crm-state' }, transaction }));
    outside.setSwitches({ ...calm, slowMs: 150 });
    await studio.call('POST', '/api/crm/sync');
    expect((await studio.call('POST', '/api/crm/sync')).status).toBe(409);
    expect((await studio.call('PUT', '/api/crm', (await status()).settings)).status).toBe(409);
    while (((await status()).result?.pages ?? 0) < 2) await wait(20);
    const [, contact] = [...(await theirs()).values()];
    const { body } = await studio.get(`/api/contacts/${contact?.id}`);
    const start = performance.now();
    const edited = await studio.call('PUT', `/api/contacts/${contact?.id}`, {
      values: { city: 'Ashwold' },
      updatedAt: body.updatedAt,
    });
    expect(edited.status).toBe(200);
    expect(performance.now() - start).toBeLessThan(3000);
    const { body: stopped } = await studio.call('POST', '/api/crm/cancel');
    expect(stopped.result.error).toContain('Stopped');
    const done = stopped.result.pages;
    expect(done).toBeGreaterThanOrEqual(2);
    outside.setSwitches(calm);
    expect((await synced()).result).toMatchObject({
      pages: 7 - done,
      error: null,
      unchanged: 640 - 100 * done,
    });
  });

  it('says what is wrong with the key, the address and the answers, and changes nothing', async () => {
    await configure({ key: 'wrong' });
    expect((await synced()).result?.error).toContain('The key is refused.');
    expect((await studio.get('/api/crm/fields')).status).toBe(422);
    const { settings } = await status();
    expect((await studio.call('PUT', '/api/crm', { ...settings, address: 'ftp://example.org' })).status).toBe(
      400,
    );
    const strange = createServer((_request, response) => response.end('{"contacts": 7}')).listen(
      0,
      '127.0.0.1',
    );
    await once(strange, 'listening');
    await configure({ address: `http://127.0.0.1:${(strange.address() as AddressInfo).port}`, key: crmKey });
    expect((await synced()).result?.error).toContain('in a form that is not known');
    strange.close();
    expect((await theirs()).size).toBe(0);
  });

  it('leaves whole pages only when the server is killed, and goes on by itself from there after a restart', async () => {
    const child = spawn(process.execPath, ['--import', 'tsx', join('server', 'main.ts')], {
      env: { ...process.env, DATABASE_URL: instance.databaseUrl, PORT: '0' },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    const [ready] = await once(child, 'message');
    // The one that is killed has the sync, and nobody takes it over before another one starts.
    await instance.app.queue.stop();
    const other = await new Caller(ready.address).signIn();
    await other.call('PUT', '/api/crm/stand-in', { ...calm, slowMs: 100 });
    await other.call('POST', '/api/crm/sync');
    while (((await status(other)).result?.pages ?? 0) < 2) await wait(5);
    child.kill('SIGKILL');
    await once(child, 'exit');
    const [{ people = 0 } = {}] = await instance.sequelize.query<{ people: number }>(
      "SELECT COUNT(*) AS people FROM contacts WHERE externalId LIKE 'K%'",
      { type: QueryTypes.SELECT },
    );
    const state = (await SettingRow.findByPk('crm-state'))?.value as { cursor: string };
    expect(Number(people)).toBe(Number(state.cursor.slice(1)));
    expect(Number(people) % 100).toBe(0);
    const again = await startInstance(instance);
    try {
      expect((await ended(again.studio)).result).toMatchObject({ pages: 7, added: 640, error: null });
      expect((await theirs()).size).toBe(640);
    } finally {
      await again.stop();
    }
  });
});
