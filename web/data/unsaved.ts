import { del, get, set } from 'idb-keyval';
import { z } from 'zod';
import { ownerName } from './api.ts';

/** Work that is not stored on the server yet, kept in the browser's own database. */
export interface Unsaved {
  readonly draft: unknown;
  /** The revision that it was made over. */
  readonly revision: number;
  /** When it was last changed, in milliseconds since 1970 UTC. */
  readonly at: number;
  /** The window that it was written in, which reloading does not change. */
  readonly window: string;
  /** Who wrote it. */
  readonly by?: string | undefined;
}

const unsavedSchema = z.object({
  draft: z.unknown(),
  revision: z.number(),
  at: z.number(),
  window: z.string(),
  by: z.string().optional(),
});
const windowKey = 'apple-porch-window';
/** Work of another window that is this old, in milliseconds, is not being stored there any more. */
const abandonedAfter = 10_000;

function ownWindow(): string {
  const known = sessionStorage.getItem(windowKey);
  if (known !== null) return known;
  const made = crypto.randomUUID();
  sessionStorage.setItem(windowKey, made);
  return made;
}

const keyOf = (document: string) => `unsaved ${document}`;
/** One after another, so that nothing is put back that was removed since. */
let queue: Promise<unknown> = Promise.resolve();
/** What is to be kept next of each document, which is the latest of it. */
const next = new Map<string, { readonly write: () => Promise<void>; readonly isEnd: boolean }>();
/** The shortest time between two writings, in milliseconds: a long document takes time to copy. */
const pause = 300;
/** Ends the time between two writings. */
let goOn = (): void => undefined;

/** Keeps what is written in a document; undefined when it is stored. A browser without a database keeps nothing. */
export function keepUnsaved(document: string, work: { draft: unknown; revision: number } | undefined): void {
  const write = () =>
    work === undefined
      ? del(keyOf(document))
      : set(keyOf(document), {
          ...work,
          at: Date.now(),
          window: ownWindow(),
          by: ownerName(),
        } satisfies Unsaved);
  const isWaiting = next.has(document);
  const isEnd = work === undefined;
  next.set(document, { write, isEnd });
  // What is stored must not be found here by a page that is loaded right after.
  if (isEnd) goOn();
  if (isWaiting) return;
  const writeNext = async () => {
    const latest = next.get(document);
    next.delete(document);
    await latest?.write().catch(() => undefined);
    if ([...next.values(), ...(latest ? [latest] : [])].some((one) => one.isEnd)) return;
    await new Promise<void>((resolve) => {
      goOn = resolve;
      setTimeout(resolve, pause);
    });
  };
  queue = queue.then(writeNext);
}

/** What was written in a document and never stored, as after a crash; undefined where there is nothing. */
export async function findUnsaved(document: string): Promise<Unsaved | undefined> {
  await queue;
  const found = unsavedSchema.safeParse(await get(keyOf(document)).catch(() => undefined)).data;
  if (!found) return undefined;
  return found.window === ownWindow() || Date.now() - found.at > abandonedAfter ? found : undefined;
}
