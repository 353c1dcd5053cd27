import { Worker } from 'node:worker_threads';
import type { Access } from '../store/hosts.ts';
import type { ImportJob, ImportMessage, ImportResults } from './import.worker.ts';

/** A piece of work that did not succeed, in words for whoever asked for it. */
export class FailedJob extends Error {}
/** A piece of work that was stopped. */
export class StoppedJob extends Error {}

export interface RunningJob<Result> {
  readonly result: Promise<Result>;
  /** Ends it where it stands; what it has not committed is undone by the database. */
  stop(): Promise<void>;
}

/**
 * Threads that do the long work of imports, each one piece at a time. A thread takes a second to begin, so one that is
 * done waits for the next piece.
 */
export class ImportThreads {
  private idle: Worker | undefined;
  private closed = false;

  constructor(private readonly connection: Access) {}

  /** Begins a thread before it is needed. */
  prepare(): void {
    if (!this.idle && !this.closed) this.putAside(this.newThread());
  }

  run<Name extends keyof ImportResults>(
    job: Extract<ImportJob, { readonly name: Name }>,
    progress: (done: number) => void,
  ): RunningJob<ImportResults[Name]> {
    const thread = this.idle ?? this.newThread();
    this.idle = undefined;
    thread.ref();
    let stopped = false;
    const result = new Promise<ImportResults[Name]>((resolve, reject) => {
      const onMessage = (message: ImportMessage): void => {
        if ('progress' in message) {
          progress(message.progress);
          return;
        }
        settle();
        if ('result' in message) resolve(message.result as ImportResults[Name]);
        else reject(new FailedJob(message.failure));
      };
      const onError = (error: Error): void => reject(new FailedJob(error.message));
      const onExit = (): void =>
        reject(stopped ? new StoppedJob() : new FailedJob('The work ended before it was done.'));
      const settle = (): void => {
        thread.off('message', onMessage).off('error', onError).off('exit', onExit);
        if (stopped || this.idle || this.closed) void thread.terminate();
        else this.putAside(thread);
      };
      thread.on('message', onMessage).on('error', onError).on('exit', onExit);
    });
    thread.postMessage(job);
    return {
      result,
      async stop() {
        stopped = true;
        await thread.terminate();
      },
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.idle?.terminate();
  }

  private putAside(thread: Worker): void {
    this.idle = thread;
    thread.unref();
  }

  private newThread(): Worker {
    const thread = new Worker(new URL('./import-worker.mjs', import.meta.url), {
      workerData: this.connection,
      execArgv: [],
    });
    thread.on('exit', () => {
      if (this.idle === thread) this.idle = undefined;
    });
    return thread;
  }
}
