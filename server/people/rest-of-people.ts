import { Worker } from 'node:worker_threads';
import type { Access } from '../store/hosts.ts';
import type { PeopleHalf } from './people-half.ts';
import type { Scope } from './questions.ts';

/** What the thread is begun with. */
export interface GivenRest {
  readonly access: Access;
  readonly scope: Scope;
  readonly from: number;
}

/** What the thread tells: how many contacts it has read, then all of them. */
export type ToldOfRest = { readonly read: number } | { readonly half: PeopleHalf };

/** Reads the contacts from an id on in a thread of its own. */
export class RestOfPeople {
  /** How many have been read so far. */
  read = 0;
  /** All of them; rejects where they can't be read. */
  readonly done: Promise<PeopleHalf>;
  private readonly worker: Worker;

  constructor(access: Access, { attributes, zone }: Scope, from: number) {
    const given: GivenRest = { access, scope: { attributes, zone, audiences: [] }, from };
    this.worker = new Worker(new URL('./rest-worker.mjs', import.meta.url), {
      workerData: given,
      execArgv: [],
    });
    this.done = new Promise((resolve, reject) => {
      this.worker.on('message', (message: ToldOfRest) => {
        if ('half' in message) resolve(message.half);
        else this.read = message.read;
      });
      this.worker.on('error', reject);
      this.worker.on('exit', () => reject(new Error('the thread that reads contacts ended')));
    });
    // A failure matters only to a caller that still waits.
    this.done.catch(() => undefined);
  }

  /** Ends the thread. */
  async stop(): Promise<void> {
    await this.worker.terminate();
  }
}
