import { Worker } from 'node:worker_threads';
import { Refusal } from '../refusal.ts';
import type { MarkupJob, MarkupResults } from './markup.worker.ts';

/** Longest time that one text may take, in milliseconds. */
const patience = 20_000;

/**
 * Reads HTML from elsewhere in a thread of its own, so that nobody else waits for it: one text after another, each within
 * a limit of time. The thread begins with the first text, and is ended by one that takes too long.
 */
export class MarkupThread {
  private worker: Worker | undefined;
  private last: Promise<unknown> = Promise.resolve();

  /** @throws Refusal for a text that takes too long */
  read<Name extends keyof MarkupResults>(
    job: Extract<MarkupJob, { readonly name: Name }>,
  ): Promise<MarkupResults[Name]> {
    const done = this.last.then(() => this.run(job));
    this.last = done.catch(() => undefined);
    return done;
  }

  async stop(): Promise<void> {
    await this.worker?.terminate();
    this.worker = undefined;
  }

  private run<Name extends keyof MarkupResults>(
    job: Extract<MarkupJob, { readonly name: Name }>,
  ): Promise<MarkupResults[Name]> {
    const worker =
      this.worker ?? new Worker(new URL('./markup-worker.mjs', import.meta.url), { execArgv: [] });
    this.worker = worker;
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
      const limit = setTimeout(
        () => giveUp(new Refusal(422, 'This page is too large or too tangled to be read.')),
        patience,
      );
      const onMessage = (message: { result: MarkupResults[Name] } | { failure: string }): void => {
        end();
        if ('result' in message) resolve(message.result);
        else reject(new Error(message.failure));
      };
      const onExit = (): void => giveUp(new Error('the thread that reads pages ended'));
      worker.on('message', onMessage).on('error', giveUp).on('exit', onExit);
      worker.postMessage(job);
    });
  }
}
