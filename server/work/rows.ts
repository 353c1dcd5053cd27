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

/** Longest result that is listed with its job, in bytes. */
const longestListed = 1000;

export class JobRow extends Model<InferAttributes<JobRow>, InferCreationAttributes<JobRow>> {
  declare id: CreationOptional<number>;
  declare kind: string;
  /** Of one key there is one unfinished job at a time. */
  declare jobKey: CreationOptional<string | null>;
  /** The key as long as the job is unfinished. */
  declare activeKey: CreationOptional<string | null>;
  declare title: string;
  /** What is to be done, as JSON. */
  declare payload: string;
  /** How far it has come, as its handler keeps it, as JSON. */
  declare state: CreationOptional<string | null>;
  declare status: CreationOptional<JobStatus>;
  /** Seconds from one run to the next. */
  declare every: CreationOptional<number | null>;
  declare runAfter: CreationOptional<Date>;
  declare holder: CreationOptional<string | null>;
  declare leaseUntil: CreationOptional<Date | null>;
  declare attempts: CreationOptional<number>;
  declare claim: CreationOptional<number>;
  /** Grows whenever its process is heard of, so that such an update always changes something and is counted. */
  declare beats: CreationOptional<number>;
  declare progress: CreationOptional<number | null>;
  /** What came of it, as JSON. */
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
  /** What it is about, in words. */
  readonly title: string;
  readonly payload: unknown;
  /** Of one key there is one unfinished job at a time. */
  readonly key?: string;
  /** Milliseconds until it may run. */
  readonly delay?: number;
  /** Seconds from one run to the next, for one that runs again and again. */
  readonly every?: number;
  readonly accountName?: string;
}

/** How a job goes on after its process is done with it. */
export type Ending =
  | { readonly status: 'done'; readonly result: unknown }
  | { readonly status: 'stopped' }
  | { readonly status: 'failed'; readonly failure: string }
  /** Tried again after some milliseconds. */
  | { readonly status: 'waiting'; readonly delay: number; readonly failure: string }
  /** For somebody else to go on with, as if this process had not had it. */
  | { readonly status: 'given back' };

/**
 * The table of jobs and every query of it. All time is the database's, so that the clocks of the servers need not agree.
 * Claims are updates that count what they changed, without any lock: right on a cluster where rows are locked on one node
 * only.
 */
export class JobRows {
  /** @param now the present as an expression of SQL; another one for tests */
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

  /** Takes a job that is due, or whose process is gone, for some time; undefined where there is none. */
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
          // As it was found: whoever was quicker changed its claim.
          { where: { ...due, id, claim }, transaction },
        );
        return taken === 1;
      });
      if (isMine) return (await JobRow.findByPk(id)) ?? undefined;
    }
    return undefined;
  }

  /** Keeps a job for some more time. Whether it is still held, and whether it is to stop. */
  async renew(held: Claim, lease: number): Promise<'held' | 'stopping' | 'lost'> {
    const [kept] = await JobRow.update(
      { leaseUntil: this.in(lease), beats: literal('beats + 1') },
      { where: isHeld(held), hooks: false },
    );
    if (kept === 0) return 'lost';
    const row = await JobRow.findByPk(held.id, { attributes: ['isStopping'] });
    return row?.isStopping ? 'stopping' : 'held';
  }

  /** Stores how far a job has come, together with what was done for it; false where it is held by somebody else by now. */
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

  /** Ends a job, or the present try of it; false where it is held by somebody else by now. */
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

  /** Has a job stopped: at once where it waits, as soon as its process can where it runs. Whether there was anything to stop. */
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

  /** Has a job done that failed or was stopped, from where it had come to. */
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
        // Long results are for whoever asks for that job.
        include: [[literal(`IF(LENGTH(result) < ${longestListed}, result, NULL)`), 'result']],
      },
      order: [['id', 'DESC']],
      limit,
    });
  }

  async get(id: number): Promise<JobRow | undefined> {
    return (await JobRow.findByPk(id)) ?? undefined;
  }

  /** The latest job of a key, unfinished or not. */
  async latest(jobKey: string): Promise<JobRow | undefined> {
    return (await JobRow.findOne({ where: { jobKey }, order: [['id', 'DESC']] })) ?? undefined;
  }

  /** Removes what ended longer ago than some milliseconds, of one kind where that is given; how many. */
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

  /** The present and some milliseconds, by the database's clock. */
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
