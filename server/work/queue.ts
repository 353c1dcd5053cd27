import { randomUUID } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import { z } from 'zod';
import type { JobStatus, ListedJob } from '../../contract/jobs.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { type Claim, type Hold, Interrupted } from './hold.ts';
import { type Ending, type JobRow, JobRows, type NewJob } from './rows.ts';

export interface Pace {
  /** How long a lease lasts without renewal before another process takes the job over, in milliseconds. */
  readonly lease: number;
  /** How often to poll for due jobs, in milliseconds; jobs added by this process start at once. */
  readonly pause: number;
}

const usualPace: Pace = { lease: 15_000, pause: 1_000 };
/** The number of jobs that one process runs at a time. */
const mostAtOnce = 4;
/** The delay before the first retry, in milliseconds; it doubles with each further retry, up to the longest. */
const firstWait = 1_000;
const longestWait = 600_000;

/** The handler of a kind of job. */
export interface Handler<Payload = unknown> {
  readonly kind: string;
  readonly payload: z.ZodType<Payload>;
  /** The number of attempts before the job counts as failed. */
  readonly tries: number;
  /**
   * Runs the job from its stored progress. It writes only through {@link RunningJob.commit}, so a repeated run from there
   * does nothing twice. The return value is kept as the job's result.
   */
  run(job: RunningJob<Payload>): Promise<unknown>;
}

/** A failure that a retry would not fix. */
export class Hopeless extends Error {}

/** A job while it runs. */
export interface RunningJob<Payload> {
  readonly id: number;
  readonly payload: Payload;
  readonly accountName: string;
  /** The state committed with the latest progress, by this process or an earlier one; undefined at first. */
  readonly state: unknown;
  /** Aborted when the job has to end early, with {@link Interrupted} as the reason. */
  readonly signal: AbortSignal;
  /** Commits a piece of work and the progress it makes in one transaction. */
  commit<Result>(
    work: (transaction: Transaction) => Promise<Result>,
    reached: { readonly progress: number | null; readonly state: unknown },
  ): Promise<Result>;
  /** Fences a transaction on another connection or in another thread with the job's lease; see {@link holdOn}. */
  readonly hold: Hold;
}

/** The status of a job so far. */
export interface JobOutcome {
  readonly id: number;
  readonly status: JobStatus;
  readonly progress: number | null;
  readonly result: unknown;
  readonly failure: string | null;
  readonly finishedAt: Date | null;
}

export interface ActiveJob {
  readonly id: number;
  readonly status: JobStatus;
  readonly progress: number | null;
}

interface Running {
  readonly claim: Claim;
  readonly stop: (why: Interrupted['why']) => void;
  readonly ended: Promise<void>;
}

/**
 * A job queue in the database. Any process with capacity claims a due job and takes over the jobs of a process that died. No
 * job is lost, and no effect is stored twice.
 */
export class JobQueue {
  private readonly rows = new JobRows();
  private readonly holder = randomUUID();
  private readonly handlers = new Map<string, Handler>();
  private readonly running = new Map<number, Running>();
  private timer: NodeJS.Timeout | undefined;
  private looking: Promise<void> | undefined;
  private isStopped = true;
  private readonly stopFollowing: () => void;

  constructor(
    log: ChangeLog,
    private readonly pace = usualPace,
  ) {
    this.stopFollowing = log.on(['job'], (changes) => {
      // A running job may have been asked to stop, and an added one may be due.
      const touched = changes.flatMap(({ ids }) => ids ?? [...this.running.keys()].map(String));
      setImmediate(() => {
        for (const id of touched) if (this.running.has(Number(id))) void this.renew(Number(id));
        void this.look();
      });
    });
  }

  /** Registers the handler of a kind of job. A process without a handler leaves such jobs to others. */
  handle<Payload>(handler: Handler<Payload>): void {
    this.handlers.set(handler.kind, {
      ...handler,
      run: (job) => handler.run({ ...job, payload: handler.payload.parse(job.payload) }),
    });
  }

  /** Adds a job, in the caller's transaction if one is given. Returns its id. */
  add(job: NewJob, transaction?: Transaction): Promise<number> {
    return this.rows.add(job, transaction);
  }

  start(): void {
    this.isStopped = false;
    const again = () => {
      if (!this.isStopped)
        this.timer = setTimeout(() => this.look().then(again, again), this.pace.pause).unref();
    };
    again();
  }

  /** Releases the jobs that run here, so that another process can continue them at once. */
  async stop(): Promise<void> {
    this.isStopped = true;
    clearTimeout(this.timer);
    this.stopFollowing();
    await this.looking?.catch(() => undefined);
    const all = [...this.running.values()];
    for (const { stop } of all) stop('ending');
    await Promise.all(all.map(({ ended }) => ended));
  }

  async list(limit = 200): Promise<ListedJob[]> {
    return (await this.rows.list(limit)).map(listed);
  }

  async get(id: number): Promise<JobOutcome> {
    const row = await this.rows.get(id);
    if (!row) throw notFound('job');
    return outcomeOf(row);
  }

  /** The latest job of a key, finished or not; undefined if there is none. */
  async latest(key: string): Promise<JobOutcome | undefined> {
    const row = await this.rows.latest(key);
    return row && outcomeOf(row);
  }

  /** The payload of a job of a kind; undefined if there is no such job. */
  async payloadOf(id: number, kind: string): Promise<unknown> {
    const row = await this.rows.get(id);
    return row?.kind === kind ? read(row.payload) : undefined;
  }

  /** The unfinished job of a key; undefined if there is none. */
  async active(key: string, transaction?: Transaction): Promise<ActiveJob | undefined> {
    return (await this.allActive([key], transaction)).get(key);
  }

  /** The unfinished jobs of some keys, by their keys. */
  async allActive(keys: readonly string[], transaction?: Transaction): Promise<Map<string, ActiveJob>> {
    const rows = keys.length === 0 ? [] : await this.rows.active(keys, transaction);
    return new Map(
      rows.map(({ id, activeKey, status, progress }) => [
        activeKey ?? '',
        { id: Number(id), status, progress },
      ]),
    );
  }

  /** Stops the unfinished job of a key, and waits until it has ended, at most for some milliseconds. */
  async stopActive(key: string, atMost?: number): Promise<void> {
    const active = await this.active(key);
    // It may finish by itself at this very moment.
    if (active) await this.rows.askToStop(active.id);
    await this.untilEnded(key, atMost);
  }

  /** Waits until the unfinished job of a key has ended, at most for some milliseconds. */
  async untilEnded(key: string, atMost = 15_000): Promise<void> {
    const active = await this.active(key);
    if (!active) return;
    const end = Date.now() + atMost;
    while (Date.now() < end && (await this.active(key))?.id === active.id) await delay(50);
  }

  /** The number of jobs by status. */
  counts(): Promise<Map<string, number>> {
    return this.rows.counts();
  }

  async askToStop(id: number): Promise<void> {
    if (!(await this.rows.askToStop(id))) throw new Refusal(409, 'This is not running, or can’t be stopped.');
  }

  async runAgain(id: number): Promise<void> {
    const became = await this.rows.runAgain(id);
    if (became === 'not ended') throw new Refusal(409, 'Only what failed or was stopped can run again.');
    if (became === 'another') throw new Refusal(409, 'The same is waiting or running already.');
  }

  /** Deletes jobs that ended longer ago than `age` milliseconds, of one kind if given. */
  async forget(age: number, kind?: string): Promise<void> {
    await this.rows.forget(age, kind);
  }

  /** Claims jobs up to this process's capacity. */
  private look(): Promise<void> {
    this.looking ??= this.take().finally(() => {
      this.looking = undefined;
    });
    return this.looking.catch(() => undefined);
  }

  private async take(): Promise<void> {
    while (!this.isStopped && this.running.size < mostAtOnce && this.handlers.size > 0) {
      const row = await this.rows.claim(this.holder, [...this.handlers.keys()], this.pace.lease);
      if (!row) return;
      this.begin(row);
    }
  }

  private begin(row: JobRow): void {
    const id = Number(row.id);
    const ending = new AbortController();
    const stop = (why: Interrupted['why']) => ending.abort(new Interrupted(why));
    // A process that was too busy to renew its lease may itself take the job over.
    this.running.get(id)?.stop('lost');
    const renewing = setInterval(() => void this.renew(id), this.pace.lease / 3);
    const ended = this.work(row, ending.signal).finally(() => {
      clearInterval(renewing);
      if (this.running.get(id) === running) this.running.delete(id);
      void this.look();
    });
    const running = { claim: claimOf(row), stop, ended };
    this.running.set(id, running);
  }

  private async renew(id: number): Promise<void> {
    const running = this.running.get(id);
    if (!running) return;
    // If the database is unreachable, the next renewal decides; by then another process may have the job.
    const kept = await this.rows.renew(running.claim, this.pace.lease).catch(() => 'held' as const);
    if (kept !== 'held') running.stop(kept);
  }

  private async work(row: JobRow, signal: AbortSignal): Promise<void> {
    const claim = claimOf(row);
    const handler = this.handlers.get(row.kind);
    let ending: Ending;
    try {
      if (!handler) throw new Error(`nobody does ${row.kind}`);
      if (row.attempts > handler.tries) throw new Hopeless('The server ended each time that this was tried.');
      if (row.isStopping) throw new Interrupted('stopping');
      const result = await handler.run({
        id: Number(row.id),
        payload: read(row.payload),
        accountName: row.accountName,
        state: read(row.state ?? null) ?? undefined,
        signal,
        commit: (work, reached) => this.commit(claim, signal, work, reached),
        hold: { ...claim, lease: this.pace.lease },
      });
      ending = { status: 'done', result };
    } catch (error) {
      ending = endingAfter(signal.aborted ? signal.reason : error, row.attempts, handler?.tries ?? 1);
    }
    await this.end(claim, ending);
  }

  private commit<Result>(
    claim: Claim,
    signal: AbortSignal,
    work: (transaction: Transaction) => Promise<Result>,
    { progress, state }: { readonly progress: number | null; readonly state: unknown },
  ): Promise<Result> {
    signal.throwIfAborted();
    return inTransaction(async (transaction) => {
      const result = await work(transaction);
      if (!(await this.rows.advance(claim, { progress, state, lease: this.pace.lease }, transaction)))
        throw new Interrupted('lost');
      return result;
    });
  }

  /** Ends a job. If the database is unreachable, the lease expires and the job is resumed from its last progress. */
  private async end(claim: Claim, ending: Ending): Promise<void> {
    await inTransaction((transaction) => this.rows.end(claim, ending, transaction)).catch(() => undefined);
  }
}

/** The outcome of a job that did not finish. */
function endingAfter(error: unknown, attempts: number, tries: number): Ending {
  if (error instanceof Interrupted)
    return error.why === 'stopping' ? { status: 'stopped' } : { status: 'given back' };
  const failure = (error instanceof Error ? error.message : String(error)).slice(0, 1000);
  // A refusal would be refused again.
  if (error instanceof Refusal || error instanceof Hopeless || attempts >= tries)
    return { status: 'failed', failure };
  const wait = Math.min(longestWait, firstWait * 2 ** (attempts - 1));
  return { status: 'waiting', delay: wait * (0.75 + Math.random() / 2), failure };
}

function claimOf(row: JobRow): Claim {
  return { id: Number(row.id), claim: row.claim };
}

function read(text: string | null): unknown {
  return text === null ? null : JSON.parse(text);
}

/** A result that is a file, and how long it is kept. */
const madeFileSchema = z.object({ file: z.string(), until: z.iso.datetime() });

function fileOf(result: unknown): string | null {
  const made = madeFileSchema.safeParse(result).data;
  return made && Date.now() < Date.parse(made.until) ? made.file : null;
}

function outcomeOf({ id, status, progress, result, failure, finishedAt }: JobRow): JobOutcome {
  return {
    id: Number(id),
    status,
    progress,
    result: read(result ?? null),
    failure,
    finishedAt: finishedAt ?? null,
  };
}

function listed(row: JobRow): ListedJob {
  const { title, status, progress, attempts, failure, isStopping, every, accountName } = row;
  return {
    id: Number(row.id),
    key: row.jobKey,
    title,
    status,
    progress,
    attempts,
    failure,
    isStopping: Boolean(isStopping),
    file: status === 'done' ? fileOf(read(row.result)) : null,
    every,
    accountName,
    createdAt: row.createdAt.toISOString(),
    runAfter: row.runAfter.toISOString(),
    startedAt: row.startedAt?.toISOString() ?? null,
    finishedAt: row.finishedAt?.toISOString() ?? null,
  };
}
