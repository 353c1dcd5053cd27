import { type ChildProcess, fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { QueryTypes, type Sequelize } from 'sequelize';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Refusal } from '../../server/refusal.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { openDatabase } from '../../server/tables.ts';
import { type Handler, Hopeless, JobQueue } from '../../server/work/queue.ts';
import { JobRow } from '../../server/work/rows.ts';

const kills = Number(process.env.KILLS ?? 5);
// No test here waits for a lease to run out, so that none loses its own on a busy machine.
const pace = { lease: 60_000, pause: 30 };
const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
const url = `${process.env.TEST_DATABASE_SERVER}/${name}`;
let sequelize: Sequelize;
let log: ChangeLog;
let queue: JobQueue;
beforeAll(async () => {
  sequelize = await openDatabase(url);
  await sequelize.query('CREATE TABLE effects (job BIGINT NOT NULL, step INT NOT NULL)');
});
afterAll(async () => {
  await sequelize.query(`DROP DATABASE \`${name}\``);
  await sequelize.close();
});
beforeEach(async () => {
  await sequelize.query('DELETE FROM jobs');
  log = await ChangeLog.open(sequelize);
  log.start();
  queue = new JobQueue(log, pace);
});
afterEach(async () => {
  await queue.stop();
  await log.stop();
});

function handle(kind: string, run: Handler['run'], tries = 3): void {
  queue.handle({ kind, payload: z.unknown(), tries, run });
}

async function ended(id: number, of = queue): Promise<Awaited<ReturnType<JobQueue['get']>>> {
  for (;;) {
    const job = await of.get(id);
    if (['done', 'failed', 'stopped'].includes(job.status)) return job;
    await delay(20);
  }
}

/** Waits until a job is interrupted, which it may be already, and fails with the reason. */
function interrupted(signal: AbortSignal): Promise<never> {
  return new Promise((_, reject) => {
    if (signal.aborted) reject(signal.reason);
    signal.addEventListener('abort', () => reject(signal.reason));
  });
}

describe('a job', () => {
  it('is done by whichever process has time, with what it was given, and keeps its result', async () => {
    handle('double', async ({ payload }) => 2 * z.number().parse(payload));
    queue.start();
    const id = await queue.add({ kind: 'double', title: 'Doubling', payload: 21, accountName: 'Maya' });
    expect(await ended(id)).toMatchObject({ status: 'done', progress: 1, result: 42, failure: null });
    expect(await queue.list()).toMatchObject([{ id, title: 'Doubling', accountName: 'Maya', attempts: 1 }]);
  });

  it('is added together with what it is for, or not at all', async () => {
    const failing = inTransaction(async (transaction) => {
      await queue.add({ kind: 'double', title: 'Never', payload: 1 }, transaction);
      throw new Error('changed my mind');
    });
    await expect(failing).rejects.toThrow('changed my mind');
    expect(await queue.list()).toEqual([]);
  });

  it('of one key is there once, until it has ended', async () => {
    handle('keyed', async () => 'done');
    const add = () => queue.add({ kind: 'keyed', title: 'Sync', payload: null, key: 'crm' });
    const ids = await Promise.all([add(), add(), add()]);
    expect(new Set(ids).size).toBe(1);
    queue.start();
    await ended(ids[0] ?? 0);
    expect(await add()).not.toBe(ids[0]);
  });

  it('that fails is tried again, later each time, and then says why', async () => {
    const begun: number[] = [];
    handle('breaks', async () => {
      begun.push(Date.now());
      throw new Error('the mail server is gone');
    });
    queue.start();
    const id = await queue.add({ kind: 'breaks', title: 'Sending', payload: null });
    expect(await ended(id)).toMatchObject({ status: 'failed', failure: 'the mail server is gone' });
    const [first = 0, second = 0, third = 0] = begun;
    expect(begun).toHaveLength(3);
    expect(third - second).toBeGreaterThan(second - first);
    // Once what was wrong is right it can be done all the same.
    handle('breaks', async () => 'sent');
    await queue.runAgain(id);
    expect(await ended(id)).toMatchObject({ status: 'done', result: 'sent', failure: null });
    await expect(queue.runAgain(id)).rejects.toThrow('Only what failed');
  });

  it.each([
    ['refused', () => new Refusal(422, 'The email is not released')],
    ['hopeless', () => new Hopeless('The file is gone')],
  ])('that is %s is not tried again', async (kind, problem) => {
    let tries = 0;
    handle(kind, async () => {
      tries++;
      throw problem();
    });
    queue.start();
    const id = await queue.add({ kind, title: 'Sending', payload: null });
    expect(await ended(id)).toMatchObject({ status: 'failed', failure: problem().message });
    expect(tries).toBe(1);
  });

  it('that is given something else than it takes fails with what is wrong', async () => {
    queue.handle({
      kind: 'strict',
      payload: z.object({ id: z.number() }),
      tries: 1,
      run: async () => 'done',
    });
    queue.start();
    const id = await queue.add({ kind: 'strict', title: 'Strict', payload: { id: 'seven' } });
    const { status, failure } = await ended(id);
    expect([status, failure?.includes('expected number')]).toEqual(['failed', true]);
  });

  it('is stopped where it runs, from any process, and goes on from there when it is run again', async () => {
    const reached: unknown[] = [];
    handle('long', async (job) => {
      reached.push(job.state);
      for (let step = Number(job.state ?? 0) + 1; step <= 5; step++) {
        await job.commit(async () => {}, { progress: step / 5, state: step });
        if (step === 3 && reached.length === 1) await interrupted(job.signal);
      }
      return 'all five';
    });
    queue.start();
    const other = new JobQueue(await ChangeLog.open(sequelize), pace);
    const id = await queue.add({ kind: 'long', title: 'Long', payload: null });
    while ((await other.get(id)).progress !== 0.6) await delay(20);
    await other.askToStop(id);
    expect(await ended(id)).toMatchObject({ status: 'stopped', progress: 0.6 });
    await other.runAgain(id);
    expect(await ended(id)).toMatchObject({ status: 'done', result: 'all five' });
    expect(reached).toEqual([undefined, 3]);
    await other.stop();
  });

  it('is given back when its process ends in order, without counting as tried', async () => {
    handle('slow', (job) => interrupted(job.signal));
    queue.start();
    const id = await queue.add({ kind: 'slow', title: 'Slow', payload: null });
    while ((await queue.get(id)).status !== 'running') await delay(20);
    await queue.stop();
    expect(await JobRow.findByPk(id, { raw: true })).toMatchObject({
      status: 'waiting',
      attempts: 0,
      holder: null,
    });
  });

  it('that runs again and again does so once for all processes, also after it failed', async () => {
    let runs = 0;
    const others = [new JobQueue(log, pace), new JobQueue(log, pace)];
    for (const one of [queue, ...others])
      one.handle({
        kind: 'hourly',
        payload: z.unknown(),
        tries: 1,
        async run() {
          runs++;
          throw new Error('not this time');
        },
      });
    const every = { kind: 'hourly', title: 'Cleaning up', payload: null, key: 'hourly', every: 3600 };
    const ids = await Promise.all([queue, ...others].map((one) => one.add(every)));
    expect(new Set(ids).size).toBe(1);
    for (const one of [queue, ...others]) one.start();
    while (runs === 0) await delay(20);
    await delay(200);
    expect(runs).toBe(1);
    const [job] = await queue.list();
    expect(job).toMatchObject({ status: 'waiting', failure: 'not this time', attempts: 0 });
    for (const one of others) await one.stop();
  });

  it(`is done once, each step of it, however often its process is killed (${kills} times)`, {
    timeout: 600_000 + kills * 30_000,
  }, async () => {
    await sequelize.query('DELETE FROM effects');
    const ids: number[] = [];
    for (let n = 0; n < 4; n++)
      ids.push(await queue.add({ kind: 'steps', title: `Steps ${n}`, payload: { steps: kills * 15 } }));
    const workers = await Promise.all([1, 2].map(() => worker()));
    for (let kill = 0; kill < kills; kill++) {
      await delay(Math.random() * 300);
      const [victim, ...rest] = workers.splice(0);
      victim?.kill('SIGKILL');
      workers.push(...rest, await worker());
    }
    for (const id of ids)
      expect(await ended(id)).toMatchObject({ status: 'done', result: { steps: kills * 15 } });
    for (const one of workers) one.kill('SIGKILL');
    const rows = await sequelize.query<{ job: number; step: number }>('SELECT job, step FROM effects', {
      type: QueryTypes.SELECT,
    });
    const expected = ids.flatMap((id) => Array.from({ length: kills * 15 }, (_, at) => `${id} ${at + 1}`));
    expect(rows.map(({ job, step }) => `${job} ${step}`).sort()).toEqual(expected.sort());
  });
});

/** A process that does jobs, once it has begun to. */
function worker(): Promise<ChildProcess> {
  const child = fork(fileURLToPath(new URL('./job-process.ts', import.meta.url)), {
    execArgv: ['--import', 'tsx'],
    env: { ...process.env, DATABASE_URL: url },
  });
  return new Promise((resolve, reject) => {
    child.once('message', () => resolve(child));
    child.once('exit', (code, signal) => {
      if (signal !== 'SIGKILL') reject(new Error(`a process ended with ${code}`));
    });
  });
}
