import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { QueryTypes, type Sequelize } from 'sequelize';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { inTransaction } from '../store/transaction.ts';
import { openDatabase } from '../tables.ts';
import type { Claim } from './hold.ts';
import { type Ending, JobRow, JobRows } from './rows.ts';

// The table of jobs beside a model of it in memory: processes claim, store, renew and end jobs, and are gone, in any order
// and with leases that run out at any moment. The method is model-based testing as fast-check describes it (fast-check.dev,
// "Model based testing").

const lease = 1000;
/** The clock of the database, in milliseconds. */
let time = 0;
const now = () => `(TIMESTAMP'2027-01-01 00:00:00.000' + INTERVAL ${time * 1000} MICROSECOND)`;
const rows = new JobRows(now);

let sequelize: Sequelize;
const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
beforeAll(async () => {
  sequelize = await openDatabase(`${process.env.TEST_DATABASE_SERVER}/${name}`);
  await sequelize.query('CREATE TABLE effects (job BIGINT NOT NULL, step INT NOT NULL, UNIQUE (job, step))');
});
afterAll(async () => {
  await sequelize.query(`DROP DATABASE \`${name}\``);
  await sequelize.close();
});

interface ModelJob {
  readonly key: string | null;
  readonly every: number | null;
  status: string;
  runAfter: number;
  leaseUntil: number;
  claim: number;
  attempts: number;
  steps: number;
  isStopping: boolean;
}

class Model {
  readonly jobs = new Map<number, ModelJob>();
  /** What each process believes to hold. */
  readonly held: Claim[][] = [[], [], []];

  isHeld({ id, claim }: Claim): boolean {
    const job = this.jobs.get(id);
    return job?.status === 'running' && job.claim === claim;
  }

  /** The ids of those that may be taken, the one that is due first first. */
  due(): number[] {
    const isDue = (job: ModelJob) =>
      (job.status === 'waiting' && job.runAfter <= time) ||
      (job.status === 'running' && job.leaseUntil < time);
    const order = ([one, a]: [number, ModelJob], [other, b]: [number, ModelJob]) =>
      a.runAfter - b.runAfter || one - other;
    return [...this.jobs]
      .filter(([, job]) => isDue(job))
      .sort(order)
      .map(([id]) => id);
  }

  pick(process: number, at: number): Claim | undefined {
    const claims = this.held[process] ?? [];
    return claims[at % Math.max(1, claims.length)];
  }

  job(at: number): [number, ModelJob] | undefined {
    const all = [...this.jobs];
    return all[at % Math.max(1, all.length)];
  }
}

type Command = fc.AsyncCommand<Model, undefined>;

/** One thing that is done, to the model and to the table. */
function command(said: string, run: (model: Model) => Promise<void>): Command {
  return {
    check: () => true,
    async run(model) {
      await run(model);
      await compare(model);
    },
    toString: () => said,
  };
}

/** The table says of every job what the model says, and each step of it was stored once. */
async function compare(model: Model): Promise<void> {
  const stored = await JobRow.findAll({ raw: true, order: ['id'] });
  const steps = await sequelize.query<{ job: number; steps: number }>(
    'SELECT job, COUNT(*) AS steps FROM effects GROUP BY job',
    { type: QueryTypes.SELECT },
  );
  const stepsOf = new Map(steps.map((one) => [Number(one.job), Number(one.steps)]));
  expect(
    stored.map(({ id, status, claim, attempts, activeKey, isStopping }) => ({
      id: Number(id),
      status,
      claim,
      attempts,
      activeKey,
      isStopping: Boolean(isStopping),
      steps: stepsOf.get(Number(id)) ?? 0,
    })),
  ).toEqual(
    [...model.jobs].map(([id, { status, claim, attempts, key, isStopping, steps: taken }]) => ({
      id,
      status,
      claim,
      attempts,
      activeKey: ['waiting', 'running'].includes(status) ? key : null,
      isStopping,
      steps: taken,
    })),
  );
}

const add = (key: string | null, delay: number, every: number | null) =>
  command(`add ${key} in ${delay} every ${every}`, async (model) => {
    const wanted = { kind: 'test', title: 'A job', payload: {}, delay };
    const id = await rows.add({ ...wanted, ...(key !== null && { key }), ...(every !== null && { every }) });
    const isActive = (job: ModelJob) => job.key === key && ['waiting', 'running'].includes(job.status);
    const there = key === null ? undefined : [...model.jobs].find(([, job]) => isActive(job));
    if (there) {
      expect(id).toBe(there[0]);
      return;
    }
    expect(model.jobs.has(id)).toBe(false);
    model.jobs.set(id, {
      key,
      every,
      status: 'waiting',
      runAfter: time + delay,
      leaseUntil: 0,
      claim: 0,
      attempts: 0,
      steps: 0,
      isStopping: false,
    });
  });

const claim = (process: number) =>
  command(`${process} claims`, async (model) => {
    const row = await rows.claim(`process ${process}`, ['test'], lease);
    const [first] = model.due();
    expect(row && Number(row.id)).toBe(first);
    const job = model.jobs.get(first ?? -1);
    if (!row || !job || first === undefined) return;
    Object.assign(job, { status: 'running', leaseUntil: time + lease });
    job.claim++;
    job.attempts++;
    model.held[process]?.push({ id: first, claim: job.claim });
  });

const step = (process: number, at: number) =>
  command(`${process} stores a step of its job ${at}`, async (model) => {
    const held = model.pick(process, at);
    const job = held && model.jobs.get(held.id);
    if (!held || !job) return;
    const isMine = model.isHeld(held);
    const storing = inTransaction(async (transaction) => {
      await sequelize.query('INSERT INTO effects VALUES (?, ?)', {
        replacements: [held.id, job.steps + 1],
        transaction,
      });
      if (!(await rows.advance(held, { progress: 0.5, state: job.steps + 1, lease }, transaction)))
        throw new Error('lost');
    });
    if (isMine) {
      await storing;
      job.steps++;
      job.leaseUntil = time + lease;
    } else await expect(storing).rejects.toThrow('lost');
  });

const renew = (process: number, at: number) =>
  command(`${process} renews its job ${at}`, async (model) => {
    const held = model.pick(process, at);
    const job = held && model.jobs.get(held.id);
    if (!held || !job) return;
    const isMine = model.isHeld(held);
    expect(await rows.renew(held, lease)).toBe(isMine ? (job.isStopping ? 'stopping' : 'held') : 'lost');
    if (isMine) job.leaseUntil = time + lease;
  });

const end = (process: number, at: number, ending: Ending) =>
  command(`${process} ends its job ${at} as ${ending.status}`, async (model) => {
    const held = model.pick(process, at);
    const job = held && model.jobs.get(held.id);
    if (!held || !job) return;
    const isMine = model.isHeld(held);
    expect(await inTransaction((transaction) => rows.end(held, ending, transaction))).toBe(isMine);
    if (!isMine) return;
    if (ending.status === 'given back') {
      Object.assign(job, { status: 'waiting', runAfter: time, attempts: job.attempts - 1 });
    } else if (ending.status === 'waiting') {
      Object.assign(job, { status: 'waiting', runAfter: time + ending.delay });
    } else if (job.every !== null) {
      const runAfter = time + job.every * 1000;
      Object.assign(job, { status: 'waiting', runAfter, attempts: 0, isStopping: false });
    } else job.status = ending.status;
  });

const askToStop = (at: number) =>
  command(`job ${at} is to stop`, async (model) => {
    const [id, job] = model.job(at) ?? [];
    if (id === undefined || !job) return;
    const may = job.every === null && ['waiting', 'running'].includes(job.status);
    expect(await rows.askToStop(id)).toBe(may);
    if (!may) return;
    if (job.status === 'running') job.isStopping = true;
    else job.status = 'stopped';
  });

const runAgain = (at: number) =>
  command(`job ${at} is to run again`, async (model) => {
    const [id, job] = model.job(at) ?? [];
    if (id === undefined || !job) return;
    const hasEnded = ['failed', 'stopped'].includes(job.status);
    // Of one key there is one unfinished job at a time, also where an earlier one is to run again.
    const isThere = [...model.jobs.values()].some(
      (other) => job.key !== null && other.key === job.key && ['waiting', 'running'].includes(other.status),
    );
    expect(await rows.runAgain(id)).toBe(hasEnded ? (isThere ? 'another' : 'waiting') : 'not ended');
    if (hasEnded && !isThere)
      Object.assign(job, { status: 'waiting', runAfter: time, attempts: 0, isStopping: false });
  });

const pass = (milliseconds: number) =>
  command(`${milliseconds} ms pass`, async () => {
    time += milliseconds;
  });

const crash = (process: number) =>
  command(`${process} is gone`, async (model) => {
    model.held[process]?.splice(0);
  });

it('keeps each job held by one process at most, and stores each step of it once', {
  timeout: 600_000,
}, async () => {
  const process = fc.nat(2);
  const at = fc.nat(5);
  const endings = fc.constantFrom<Ending>(
    { status: 'done', result: 7 },
    { status: 'stopped' },
    { status: 'failed', failure: 'it broke' },
    { status: 'waiting', delay: 500, failure: 'it broke' },
    { status: 'given back' },
  );
  const commands = fc.commands(
    [
      fc
        .tuple(
          fc.constantFrom('a', 'b', null, null),
          fc.constantFrom(0, 0, 700),
          fc.constantFrom(null, null, 2),
        )
        .map((of) => add(...of)),
      process.map(claim),
      process.map(claim),
      fc.tuple(process, at).map((of) => step(...of)),
      fc.tuple(process, at).map((of) => step(...of)),
      fc.tuple(process, at).map((of) => renew(...of)),
      fc.tuple(process, at, endings).map((of) => end(...of)),
      at.map(askToStop),
      at.map(runAgain),
      fc.constantFrom(1, 400, 999, 1000, 1001, 2500).map(pass),
      process.map(crash),
    ],
    { maxCommands: 60, size: 'max' },
  );
  await fc.assert(
    fc.asyncProperty(commands, async (all) => {
      time = 0;
      await sequelize.query('DELETE FROM effects');
      await sequelize.query('DELETE FROM jobs');
      await fc.asyncModelRun(() => ({ model: new Model(), real: undefined }), all);
    }),
    { numRuns: Number(globalThis.process.env.RUNS ?? 40) },
  );
});

it('is claimed by one of many who try at the same moment', async () => {
  await sequelize.query('DELETE FROM jobs');
  for (let n = 0; n < 20; n++) await rows.add({ kind: 'test', title: `${n}`, payload: n });
  const claimed = await Promise.all(
    Array.from({ length: 40 }, (_, n) => rows.claim(`process ${n}`, ['test'], lease)),
  );
  const ids = claimed.flatMap((row) => (row ? [Number(row.id)] : []));
  expect(new Set(ids).size).toBe(ids.length);
  const left: number[] = [];
  for (
    let row = await rows.claim('last', ['test'], lease);
    row;
    row = await rows.claim('last', ['test'], lease)
  )
    left.push(Number(row.id));
  expect([...ids, ...left].sort((one, other) => one - other)).toHaveLength(20);
});
