import { parentPort } from 'node:worker_threads';
import type { Job, Jobs } from './job-thread.ts';

/** What a thread does for each job that it knows. */
export type Doing<Known extends Jobs> = {
  readonly [Name in keyof Known]: (given: Known[Name]['given']) => Known[Name]['result'];
};

/** Does the jobs that are posted to this thread, one after another. */
export function answerJobs<Known extends Jobs>(doing: Doing<Known>): void {
  parentPort?.on('message', ({ name, given }: Job<Known>) => {
    try {
      parentPort?.postMessage({ result: doing[name](given) });
    } catch (error) {
      parentPort?.postMessage({
        failure: error instanceof Error ? (error.stack ?? error.message) : String(error),
      });
    }
  });
}
