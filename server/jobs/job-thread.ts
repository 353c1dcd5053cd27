import { Worker } from 'node:worker_threads';
import { OneByOne } from '../one-by-one.ts';
import { Refusal } from '../refusal.ts';

/** What a kind of thread does: for each job by its name what is given and what comes back, both plain data. */
export type Jobs = { readonly [name: string]: { readonly given: unknown; readonly result: unknown } };

/** A job on its way to its thread. */
export type Job<Known extends Jobs> = {
  [Name in keyof Known]: { readonly name: Name; readonly given: Known[Name]['given'] };
}[keyof Known];

interface Limit {
  /** Longest time that one job may take, in milliseconds. */
  readonly milliseconds: number;
  /** The message for a job that took longer. */
  readonly said: string;
}

/**
 * Does long work in a thread of its own, so that nobody else waits for it: one job after another, each within a limit of
 * time. The thread begins with the first job, and is ended by one that takes too long.
 */
export class JobThread<Known extends Jobs> {
  private worker: Worker | undefined;
  private readonly working = new OneByOne();

  constructor(
    private readonly script: URL,
    private readonly limit: Limit,
  ) {}

  /** @throws Refusal for a job that takes too long */
  do<Name extends keyof Known>(name: Name, given: Known[Name]['given']): Promise<Known[Name]['result']> {
    return this.working.after(() => this.run(name, given));
  }

  /** Begins the thread ahead of its first job, which then does not wait for it. */
  begin(): void {
    this.started().unref();
  }

  async stop(): Promise<void> {
    await this.worker?.terminate();
    this.worker = undefined;
  }

  private started(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(this.script, { execArgv: [] });
    // A thread that dies while it is idle is started again by the next job.
    const forget = (): void => {
      if (this.worker === worker) this.worker = undefined;
    };
    worker.on('error', forget).on('exit', forget);
    this.worker = worker;
    return worker;
  }

  private run<Name extends keyof Known>(
    name: Name,
    given: Known[Name]['given'],
  ): Promise<Known[Name]['result']> {
    const worker = this.started();
    worker.ref();
    return new Promise((resolve, reject) => {
      const end = (): void => {
        clearTimeout(limit);
        worker.off('message', onMessage).off('error', giveUp).off('exit', onExit);
        worker.unref();
      };
      const giveUp = (error: Error): void => {
        end();
        this.worker = undefined;
        void worker.terminate();
        reject(error);
      };
      const limit = setTimeout(() => giveUp(new Refusal(422, this.limit.said)), this.limit.milliseconds);
      const onMessage = (message: { result: Known[Name]['result'] } | { failure: string }): void => {
        end();
        if ('result' in message) resolve(message.result);
        else reject(new Error(message.failure));
      };
      const onExit = (): void => giveUp(new Error('the thread ended in the middle of its work'));
      worker.on('message', onMessage).on('error', giveUp).on('exit', onExit);
      worker.postMessage({ name, given });
    });
  }
}
