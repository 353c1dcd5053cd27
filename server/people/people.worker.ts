import { parentPort, workerData } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import type { Access } from '../store/hosts.ts';
import { HeldPeople } from './held-people.ts';
import { type Asked, mostScopes, type Scope } from './questions.ts';

/** A question, with the number of its scope in the place where the scope itself would stand. */
export interface Message {
  id: number;
  asked: Asked;
  scope?: { number: number; scope?: Scope };
}

/** What the thread is begun with. */
export interface Given {
  readonly access: Access;
  readonly folder: string | undefined;
}

const { access, folder }: Given = workerData;
const people = new HeldPeople(access, (reading) => parentPort?.postMessage({ reading }), folder);
const scopes = new LRUCache<number, Scope>({ max: mostScopes });
let working: Promise<unknown> = Promise.resolve();

// One question after another: what was changed before a question is seen by it.
parentPort?.on('message', (message: Message) => {
  working = working.then(() => answer(message));
});

async function answer({ id, asked, scope }: Message): Promise<void> {
  try {
    if (scope?.scope) scopes.set(scope.number, scope.scope);
    const known = scope && scopes.get(scope.number);
    const args: readonly unknown[] = known ? [known, ...asked.args.slice(1)] : asked.args;
    const method: (...args: never[]) => Promise<unknown> = people[asked.name];
    parentPort?.postMessage({ id, answer: await Reflect.apply(method, people, args) });
  } catch (error) {
    parentPort?.postMessage({
      id,
      failure: error instanceof Error ? (error.stack ?? error.message) : String(error),
    });
  }
}
