import { Worker } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import type { Access } from '../store/hosts.ts';
import type { Given, Message } from './people.worker.ts';
import { type Asked, type AsksPeople, mostScopes, type Scope } from './questions.ts';

/** The heap that a thread gets by default, in megabytes. */
const usualHeap = 4096;

/** The other side of the worker thread that holds all contacts. A thread that dies is begun anew at the next question. */
export class PeopleThread implements AsksPeople {
  /** How many contacts were read so far, while they are read. */
  reading: number | undefined;
  private worker: Worker | undefined;
  private last = 0;
  private readonly waiting = new Map<
    number,
    { resolve: (answer: never) => void; reject: (error: Error) => void }
  >();
  private readonly numbers = new WeakMap<Scope, number>();
  /** The scopes that the thread has, which keeps and forgets them in the same order. */
  private readonly sent = new LRUCache<number, true>({ max: mostScopes });
  private lastScope = 0;

  /**
   * @param megabytes most memory that contacts may take up
   * @param folder where they are kept for the next start; nowhere where it is not given
   */
  constructor(
    private readonly connection: Access,
    private readonly megabytes = usualHeap,
    private readonly folder?: string,
  ) {}

  total: AsksPeople['total'] = () => this.ask({ name: 'total', args: [] });
  count: AsksPeople['count'] = (...args) => this.ask({ name: 'count', args });
  some: AsksPeople['some'] = (...args) => this.ask({ name: 'some', args });
  changes: AsksPeople['changes'] = (...args) => this.ask({ name: 'changes', args });
  lacking: AsksPeople['lacking'] = (...args) => this.ask({ name: 'lacking', args });
  values: AsksPeople['values'] = (...args) => this.ask({ name: 'values', args });
  faces: AsksPeople['faces'] = (...args) => this.ask({ name: 'faces', args });
  list: AsksPeople['list'] = (...args) => this.ask({ name: 'list', args });
  changed: AsksPeople['changed'] = (...args) => this.ask({ name: 'changed', args });
  keep: AsksPeople['keep'] = (...args) => this.ask({ name: 'keep', args });

  async stop(): Promise<void> {
    await this.worker?.terminate();
    this.worker = undefined;
  }

  private ask<Answer>(asked: Asked): Promise<Answer> {
    const worker = this.running();
    const id = ++this.last;
    const [first] = asked.args;
    const scope = isScope(first) ? this.scopeFor(first) : undefined;
    const message: Message = { id, asked, scope };
    return new Promise<Answer>((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      // The scope travels once; after that its number stands for it.
      const args = scope ? [null, ...asked.args.slice(1)] : asked.args;
      worker.postMessage({ ...message, asked: { ...asked, args } });
    });
  }

  private scopeFor(scope: Scope): Message['scope'] {
    let number = this.numbers.get(scope);
    if (number === undefined) {
      number = ++this.lastScope;
      this.numbers.set(scope, number);
    }
    if (this.sent.get(number)) return { number };
    this.sent.set(number, true);
    return { number, scope };
  }

  private running(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('./people-worker.mjs', import.meta.url), {
      workerData: { access: this.connection, folder: this.folder } satisfies Given,
      execArgv: [],
      // Names and addresses live on its heap; the default limit of 4 GB is too small for ten million.
      resourceLimits: { maxOldGenerationSizeMb: Math.max(usualHeap, this.megabytes) },
    });
    this.worker = worker;
    this.sent.clear();
    worker.on('message', (message: Answered | { reading: number | null }) => {
      if ('reading' in message) {
        this.reading = message.reading ?? undefined;
        return;
      }
      const { id, answer, failure } = message;
      const asker = this.waiting.get(id);
      this.waiting.delete(id);
      if (failure === undefined) asker?.resolve(answer);
      else asker?.reject(new Error(failure));
    });
    const ended = (error?: Error) => {
      if (this.worker === worker) this.worker = this.reading = undefined;
      for (const { reject } of this.waiting.values())
        reject(error ?? new Error('the thread that counts people ended'));
      this.waiting.clear();
    };
    worker.on('error', ended);
    worker.on('exit', () => ended());
    return worker;
  }
}

interface Answered {
  readonly id: number;
  readonly answer: never;
  readonly failure?: string;
}

function isScope(value: unknown): value is Scope {
  return typeof value === 'object' && value !== null && 'audiences' in value;
}
