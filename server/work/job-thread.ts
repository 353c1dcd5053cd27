import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import { Refusal } from '../refusal.ts';
import { OneByOne } from './one-by-one.ts';

/** What a kind of thread does: for each job by its name what is given and what comes back, both plain data. */
export type Jobs = { readonly [name: string]: { readonly given: unknown; readonly result: unknown } };

/** What a thread does for each job that it knows. */
export type Doing<Known extends Jobs> = {
  readonly [Name in keyof Known]: (given: Known[Name]['given']) => Known[Name]['result'];
};

interface Limit {
  /** Longest time that one job may take, in milliseconds. */
  readonly milliseconds: number;
  /** The message for a job that took longer. */
  readonly said: string;
}

/**
 * Does long work in a thread of its own, so that nobody else waits for it: one job after another, each within a limit of
 * time. The thread begins with the first job, stays the same for all that follow, and is ended by a job that takes too long.
 */
export class JobThread<Known extends Jobs> {
  private pool: Piscina | undefined;
  private readonly working = new OneByOne();

  /** @param script a module whose default export is given the name of a job and what it is given, and does it */
  constructor(
    private readonly script: URL,
    private readonly limit: Limit,
  ) {}

  /**
   * @param stop ends the job before its time; it then fails with the reason of that
   * @throws Refusal for a job that takes too long
   */
  do<Name extends keyof Known>(
    name: Name,
    given: Known[Name]['given'],
    stop?: AbortSignal,
  ): Promise<Known[Name]['result']> {
    return this.working.after(async () => {
      stop?.throwIfAborted();
      // It counts from here on, and not while other jobs are before it.
      const limit = AbortSignal.timeout(this.limit.milliseconds);
      const signal = stop ? AbortSignal.any([limit, stop]) : limit;
      try {
        return await this.begun().run({ name, given }, { signal });
      } catch (error) {
        stop?.throwIfAborted();
        if (limit.aborted) throw new Refusal(422, this.limit.said);
        throw error;
      }
    });
  }

  /** Begins the thread ahead of its first job, which then does not wait for it. */
  begin(): void {
    this.begun();
  }

  async stop(): Promise<void> {
    await this.pool?.destroy();
    this.pool = undefined;
  }

  private begun(): Piscina {
    if (this.pool) return this.pool;
    const pool = new Piscina({
      filename: fileURLToPath(this.script),
      minThreads: 1,
      maxThreads: 1,
      idleTimeout: Number.POSITIVE_INFINITY,
      execArgv: [],
      recordTiming: false,
    });
    // A thread that dies while it is idle is begun anew by the next job.
    pool.on('error', () => {
      if (this.pool !== pool) return;
      this.pool = undefined;
      void pool.destroy();
    });
    this.pool = pool;
    return pool;
  }
}
