import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  literal,
  Model,
  Op,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import type { JobStatus } from '../../contract/jobs.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, inTransactionAmongOthers } from '../store/transaction.ts';
import type { Claim } from './hold.ts';

/** The longest result that is listed with its job, in bytes. */
const longestListed = 1000;

export class JobRow extends Model<InferAttributes<JobRow>, InferCreationAttributes<JobRow>> {
  declare id: CreationOptional<number>;
  declare kind: string;
  /** At most one unfinished job has a given key. */
  declare jobKey: CreationOptional<string | null>;
  /** The key while the job is unfinished, else null. */
  declare activeKey: CreationOptional<string | null>;
  declare title: string;
  /** The payload, as JSON. */
  declare payload: string;
  /** The handler's saved state, as JSON. */
  declare state: CreationOptional<string | null>;
  declare status: CreationOptional<JobStatus>;
  /** The interval of a repeating job, in seconds. */
  declare every: CreationOptional<number | null>;
  declare runAfter: CreationOptional<Date>;
  declare holder: CreationOptional<string | null>;
  declare leaseUntil: CreationOptional<Date | null>;
  declare attempts: CreationOptional<number>;
  declare claim: CreationOptional<number>;
  /** Incremented with every renewal, so that the update always changes the row and is counted as affected. */
  declare beats: CreationOptional<number>;
  declare progress: CreationOptional<number | null>;
  /** The result, as JSON. */
  declare result: CreationOptional<string | null>;
  declare failure: CreationOptional<string | null>;
  declare isStopping: CreationOptional<boolean>;
  declare accountName: CreationOptional<string>;
  declare createdAt: CreationOptional<Date>;
  declare startedAt: CreationOptional<Date | null>;
  declare finishedAt: CreationOptional<Date | null>;
}

export function defineJobs(sequelize: Sequelize): void {
  const json = DataTypes.TEXT('long');
  const instant = DataTypes.DATE(3);
  JobRow.init(
    {
      id: { type: DataTypes.BIGINT.UNSIGNED, primaryKey: true, autoIncrement: true },
      kind: DataTypes.STRING,
      jobKey: DataTypes.STRING,
      activeKey: DataTypes.STRING,
      title: DataTypes.STRING,
      payload: json,
      state: json,
      status: DataTypes.STRING,
      every: DataTypes.INTEGER.UNSIGNED,
      runAfter: instant,
      holder: DataTypes.STRING,
      leaseUntil: instant,
      attempts: DataTypes.INTEGER.UNSIGNED,
      claim: DataTypes.INTEGER.UNSIGNED,
      beats: DataTypes.INTEGER.UNSIGNED,
      progress: DataTypes.DOUBLE,
      result: json,
      failure: DataTypes.STRING(1000),
      isStopping: DataTypes.BOOLEAN,
      accountName: DataTypes.STRING,
      createdAt: instant,
      startedAt: instant,
      finishedAt: instant,
    },
    { sequelize, tableName: 'jobs', timestamps: true, updatedAt: false },
  );
  noteChangesTo(JobRow, 'job', 'id');
}

export interface NewJob {
  readonly kind: string;
  /** The title that is shown. */
  readonly title: string;
  readonly payload: unknown;
  /** At most one unfinished job has a given key. */
  readonly key?: string;
  /** The delay before it may run, in milliseconds. */
  readonly delay?: number;
  /** The interval of a repeating job, in seconds. */
  readonly every?: number;
  readonly accountName?: string;
}

/** What happens to a job after a run. */
export type Ending =
  | { readonly status: 'done'; readonly result: unknown }
  | { readonly status: 'stopped' }
  | { readonly status: 'failed'; readonly failure: string }
  /** It is retried after a delay in milliseconds. */
  | { readonly status: 'waiting'; readonly delay: number; readonly failure: string }
  /** Another process continues it; this run does not count as an attempt. */
  | { readonly status: 'given back' };

/**
 * The table of jobs and all its queries. All times are the database's, so server clocks need not agree. A claim is an
 * optimistic update checked by its number of affected rows, since row locks on a multi-primary cluster hold on one node only.
 */
export class JobRows {
  /** @param now an SQL expression for the current time; tests pass another one */
  constructor(private readonly now: () => string = () => 'UTC_TIMESTAMP(3)') {}

  /** Adds a job, or returns the id of the unfinished one with the same key. */
  add(job: NewJob, given?: Transaction): Promise<number> {
    const work = async (transaction: Transaction) => {
      const { kind, title, payload, key = null, delay = 0, every = null, accountName = '' } = job;
      if (key !== null) {
        const there = await JobRow.findOne({ attributes: ['id'], where: { activeKey: key }, transaction });
        if (there) return Number(there.id);
      }
      const row = await JobRow.create(
        {
          kind,
          title: title.slice(0, 255),
          payload: JSON.stringify(payload ?? null),
          jobKey: key,
          activeKey: key,
          every,
          accountName,
          runAfter: new Date(),
        },
        { transaction },
      );
      await row.update({ runAfter: this.in(delay) }, { transaction });
      return Number(row.id);
    };
    return given ? work(given) : inTransactionAmongOthers(work);
  }

  /** Claims a job that is due or whose lease expired; undefined if there is none. */
  async claim(holder: string, kinds: readonly string[], lease: number): Promise<JobRow | undefined> {
    const due = {
      kind: [...kinds],
      [Op.or]: [
        { status: 'waiting' as const, runAfter: { [Op.lte]: this.in(0) } },
        { status: 'running' as const, leaseUntil: { [Op.lt]: this.in(0) } },
      ],
    };
    const found = await JobRow.findAll({
      attributes: ['id', 'claim'],
      where: due,
      order: [
        ['runAfter', 'ASC'],
        ['id', 'ASC'],
      ],
      limit: 8,
      raw: true,
    });
    for (const { id, claim } of found) {
      const isMine = await inTransactionAmongOthers(async (transaction) => {
        const [taken] = await JobRow.update(
          {
            status: 'running',
            holder,
            leaseUntil: this.in(lease),
            attempts: literal('attempts + 1'),
            claim: claim + 1,
            startedAt: literal(`COALESCE(startedAt, ${this.now()})`),
          },
          // Only if the claim is unchanged: a faster process has changed it.
          { where: { ...due, id, claim }, transaction },
        );
        return taken === 1;
      });
      if (isMine) return (await JobRow.findByPk(id)) ?? undefined;
    }
    return undefined;
  }

  /** Renews a lease. Returns whether the job is still held and whether it was asked to stop. */
  async renew(held: Claim, lease: number): Promise<'held' | 'stopping' | 'lost'> {
    const [kept] = await JobRow.update(
      { leaseUntil: this.in(lease), beats: literal('beats + 1') },
      { where: isHeld(held), hooks: false },
    );
    if (kept === 0) return 'lost';
    const row = await JobRow.findByPk(held.id, { attributes: ['isStopping'] });
    return row?.isStopping ? 'stopping' : 'held';
  }

  /** Stores a job's progress in the transaction of its effects; false if another process holds the job now. */
  async advance(
    held: Claim,
    { progress, state, lease }: { progress: number | null; state: unknown; lease: number },
    transaction: Transaction,
  ): Promise<boolean> {
    const [stored] = await JobRow.update(
      {
        progress,
        state: JSON.stringify(state ?? null),
        leaseUntil: this.in(lease),
        beats: literal('beats + 1'),
      },
      { where: isHeld(held), transaction },
    );
    return stored === 1;
  }

  /** The unfinished jobs of some keys. */
  active(keys: readonly string[], transaction?: Transaction): Promise<JobRow[]> {
    return JobRow.findAll({ where: { activeKey: [...keys] }, ...(transaction && { transaction }) });
  }

  /** Ends a job or its current attempt; false if another process holds the job now. */
  async end(held: Claim, ending: Ending, transaction: Transaction): Promise<boolean> {
    const row = await JobRow.findOne({ where: isHeld(held), transaction, lock: true });
    if (!row) return false;
    if (ending.status === 'given back')
      await row.update(
        {
          holder: null,
          leaseUntil: null,
          status: 'waiting',
          runAfter: this.in(0),
          attempts: literal('attempts - 1'),
        },
        { transaction },
      );
    else if (ending.status === 'waiting')
      await row.update(
        {
          holder: null,
          leaseUntil: null,
          status: 'waiting',
          runAfter: this.in(ending.delay),
          failure: ending.failure,
        },
        { transaction },
      );
    else if (row.every !== null)
      await row.update(
        {
          holder: null,
          leaseUntil: null,
          status: 'waiting',
          runAfter: this.in(row.every * 1000),
          attempts: 0,
          progress: null,
          state: null,
          isStopping: false,
          failure: ending.status === 'failed' ? ending.failure : null,
          finishedAt: this.in(0),
        },
        { transaction },
      );
    else
      await row.update(
        {
          holder: null,
          leaseUntil: null,
          status: ending.status,
          activeKey: null,
          progress: ending.status === 'done' ? 1 : row.progress,
          result: ending.status === 'done' ? JSON.stringify(ending.result ?? null) : null,
          failure: ending.status === 'failed' ? ending.failure : row.failure,
          finishedAt: this.in(0),
        },
        { transaction },
      );
    return true;
  }

  /** Stops a job: at once if it waits, else as soon as its process notices. Returns whether there was a job to stop. */
  askToStop(id: number): Promise<boolean> {
    return inTransaction(async (transaction) => {
      const row = await JobRow.findByPk(id, { transaction, lock: true });
      if (!row || row.every !== null) return false;
      if (row.status === 'running') await row.update({ isStopping: true }, { transaction });
      else if (row.status === 'waiting')
        await row.update({ status: 'stopped', activeKey: null, finishedAt: this.in(0) }, { transaction });
      else return false;
      return true;
    });
  }

  /** Queues a failed or stopped job again, from its last progress. */
  runAgain(id: number): Promise<'waiting' | 'not ended' | 'another'> {
    return inTransactionAmongOthers(async (transaction) => {
      const row = await JobRow.findByPk(id, { transaction, lock: true });
      if (row?.status !== 'failed' && row?.status !== 'stopped') return 'not ended';
      const { jobKey } = row;
      if (jobKey !== null && (await JobRow.count({ where: { activeKey: jobKey }, transaction })) > 0)
        return 'another';
      await row.update(
        {
          status: 'waiting',
          activeKey: jobKey,
          runAfter: this.in(0),
          attempts: 0,
          isStopping: false,
          failure: null,
          finishedAt: null,
        },
        { transaction },
      );
      return 'waiting';
    });
  }

  async counts(): Promise<Map<string, number>> {
    const rows = await JobRow.count({ group: 'status' });
    return new Map(rows.map(({ status, count }) => [String(status), count]));
  }

  list(limit: number): Promise<JobRow[]> {
    return JobRow.findAll({
      attributes: {
        exclude: ['payload', 'state', 'result'],
        // Long results are only sent with a single job.
        include: [[literal(`IF(LENGTH(result) < ${longestListed}, result, NULL)`), 'result']],
      },
      order: [['id', 'DESC']],
      limit,
    });
  }

  async get(id: number): Promise<JobRow | undefined> {
    return (await JobRow.findByPk(id)) ?? undefined;
  }

  /** The latest job of a key, finished or not. */
  async latest(jobKey: string): Promise<JobRow | undefined> {
    return (await JobRow.findOne({ where: { jobKey }, order: [['id', 'DESC']] })) ?? undefined;
  }

  /** Deletes jobs that ended longer ago than `age` milliseconds, of one kind if given. Returns how many. */
  forget(age: number, kind?: string): Promise<number> {
    return inTransaction((transaction) =>
      JobRow.destroy({
        where: {
          status: ['done', 'failed', 'stopped'],
          finishedAt: { [Op.lt]: this.in(-age) },
          ...(kind !== undefined && { kind }),
        },
        transaction,
      }),
    );
  }

  /** An SQL expression for the current time plus some milliseconds, by the database's clock. */
  private in(milliseconds: number) {
    const microseconds = Math.round(milliseconds * 1000);
    return literal(
      microseconds === 0 ? this.now() : `(${this.now()} + INTERVAL ${microseconds} MICROSECOND)`,
    );
  }
}

function isHeld({ id, claim }: Claim) {
  return { id, claim, status: 'running' as const };
}
