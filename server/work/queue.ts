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
  /** How long a process may be silent before its jobs are taken over, in milliseconds. */
  readonly lease: number;
  /** How often it is looked for jobs that are due, in milliseconds; those just added are found at once. */
  readonly pause: number;
}

const usualPace: Pace = { lease: 15_000, pause: 1_000 };
/** How many run in one process at a time. */
const mostAtOnce = 4;
/** The wait before a second try, in milliseconds; twice as long before each next one, up to the longest. */
const firstWait = 1_000;
const longestWait = 600_000;

/** How a kind of job is done. */
export interface Handler<Payload = unknown> {
  readonly kind: string;
  readonly payload: z.ZodType<Payload>;
  /** How often it is tried before it counts as failed. */
  readonly tries: number;
  /**
   * Does the job, from where it had come to. It stores something only by {@link RunningJob.commit}; so done again from
   * there, it does nothing twice. What it returns is kept as the job's result.
   */
  run(job: RunningJob<Payload>): Promise<unknown>;
}

/** A job failed in a way that it would fail again. */
export class Hopeless extends Error {}

/** A job while it is done. */
export interface RunningJob<Payload> {
  readonly id: number;
  readonly payload: Payload;
  readonly accountName: string;
  /** What was committed with the latest progress, by this process or one before; undefined at first. */
  readonly state: unknown;
  /** Aborted with {@link Interrupted} as its reason where the job has to end early. */
  readonly signal: AbortSignal;
  /** Stores some work together with how far the job has come with it: both or neither. */
  commit<Result>(
    work: (transaction: Transaction) => Promise<Result>,
    reached: { readonly progress: number | null; readonly state: unknown },
  ): Promise<Result>;
  /** What makes a transaction on a connection of its own, maybe of another thread, part of the job; see {@link holdOn}. */
  readonly hold: Hold;
}

/** What became of a job so far. */
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
 * Work in the background, in the database: done by whichever process has time, and taken over from one that is gone. It is
 * never lost and never stored twice.
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
      // What runs here may be asked to stop; what was added may be begun.
      const touched = changes.flatMap(({ ids }) => ids ?? [...this.running.keys()].map(String));
      setImmediate(() => {
        for (const id of touched) if (this.running.has(Number(id))) void this.renew(Number(id));
        void this.look();
      });
    });
  }

  /** Says how jobs of a kind are done. A process without a handler leaves them to others. */
  handle<Payload>(handler: Handler<Payload>): void {
    this.handlers.set(handler.kind, {
      ...handler,
      run: (job) => handler.run({ ...job, payload: handler.payload.parse(job.payload) }),
    });
  }

  /** Adds a job; with the transaction of somebody's change, both or neither. Returns its id. */
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

  /** Gives up what runs here, for others to go on with at once. */
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

  /** The latest job of a key, unfinished or not; undefined where there is none. */
  async latest(key: string): Promise<JobOutcome | undefined> {
    const row = await this.rows.latest(key);
    return row && outcomeOf(row);
  }

  /** What a job of a kind was given to do; undefined where there is none such. */
  async payloadOf(id: number, kind: string): Promise<unknown> {
    const row = await this.rows.get(id);
    return row?.kind === kind ? read(row.payload) : undefined;
  }

  /** The unfinished job of a key; undefined where there is none. */
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
    // It may end by itself at this very moment.
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

  /** How many jobs stand in each status. */
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

  /** Removes what ended longer ago than some milliseconds; of one kind, where that is given. */
  async forget(age: number, kind?: string): Promise<void> {
    await this.rows.forget(age, kind);
  }

  /** Takes as many jobs as there is time for. */
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
    // A process that was too busy to keep its lease may be the one that takes the job over.
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
    // Where the database is gone, the next time decides; if it stays so, somebody else has the job by then.
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

  /** Ends a job. Where the database is gone, the lease runs out, and it is done again from where it had come to. */
  private async end(claim: Claim, ending: Ending): Promise<void> {
    await inTransaction((transaction) => this.rows.end(claim, ending, transaction)).catch(() => undefined);
  }
}

/** What becomes of a job that did not come to its end. */
function endingAfter(error: unknown, attempts: number, tries: number): Ending {
  if (error instanceof Interrupted)
    return error.why === 'stopping' ? { status: 'stopped' } : { status: 'given back' };
  const failure = (error instanceof Error ? error.message : String(error)).slice(0, 1000);
  // What is refused is refused again the next time.
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

/** A result that is a file, with how long it is kept. */
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
