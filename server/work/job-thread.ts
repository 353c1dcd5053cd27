import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import { Refusal } from '../refusal.ts';
import { OneByOne } from './one-by-one.ts';

/** The jobs of a kind of thread: input and result of each by its name, both structured-cloneable. */
export type Jobs = { readonly [name: string]: { readonly given: unknown; readonly result: unknown } };

/** The implementation of each job. */
export type Doing<Known extends Jobs> = {
  readonly [Name in keyof Known]: (given: Known[Name]['given']) => Known[Name]['result'];
};

interface Limit {
  /** Time limit of one job, in milliseconds. */
  readonly milliseconds: number;
  /** The message of a job that exceeds it. */
  readonly said: string;
}

/**
 * Runs long work in a worker thread, so that it does not block requests: one job after another, each with a time limit. The
 * thread starts with the first job and is reused; a job that exceeds its limit terminates it.
 */
export class JobThread<Known extends Jobs> {
  private pool: Piscina | undefined;
  private readonly working = new OneByOne();

  /** @param script a module whose default export runs a job, given its name and input */
  constructor(
    private readonly script: URL,
    private readonly limit: Limit,
  ) {}

  /**
   * @param stop cancels the job, which then fails with the signal's reason
   * @throws Refusal for a job that exceeds its time limit
   */
  do<Name extends keyof Known>(
    name: Name,
    given: Known[Name]['given'],
    stop?: AbortSignal,
  ): Promise<Known[Name]['result']> {
    return this.working.after(async () => {
      stop?.throwIfAborted();
      // The limit starts here, not while the job waits for others.
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

  /** Starts the thread before its first job, which then does not wait for it. */
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
    // A thread that dies while it is idle is replaced by the next job.
    pool.on('error', () => {
      if (this.pool !== pool) return;
      this.pool = undefined;
      void pool.destroy();
    });
    this.pool = pool;
    return pool;
  }
}
