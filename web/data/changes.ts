import { mutate } from 'swr';
import { type ChangeEvent, changeEventSchema, type LoggedChange } from '../../contract/changes.ts';
import { isKnownHere, readAgain } from './api.ts';
import { forgetEarly } from './early.ts';
import { isMadeOf } from './made-of.ts';
import { latestPosition, onPosition } from './position.ts';
import { changedDocuments, listPath, readThose } from './some-documents.ts';

/** Shortest time between two readings of the same data, in milliseconds. */
const pause = 300;
/** How long what was changed from here has to say itself what is stored now, in milliseconds. */
const shortPause = 50;
/** How long the stream may be behind the answers before all is read again, and the shortest time between two of that. */
const patience = 2_000;
const longPause = 10_000;
/** How long to wait before a stream is asked for again that was refused. */
const tryAgainAfter = 5_000;

/** The position in the change log up to which this window has followed it. */
let followedTo = 0;
let waiting: LoggedChange[] = [];
let readAt = 0;
let timer: ReturnType<typeof setTimeout> | undefined;

/**
 * Keeps what is on screen as it is stored, whoever changed it, while this window is open. The windows of one browser share
 * one stream of changes, since a browser opens few connections at a time to one site. Returns what ends it.
 */
export function followChanges(): () => void {
  const channel = new BroadcastChannel('apple-porch changes');
  channel.onmessage = ({ data }) => take(data);
  const ended = new AbortController();
  const listen = () => streamUntil(ended.signal, (event) => channel.postMessage(event));
  // Only one window has the lock at a time; when it is closed, the next one goes on.
  if ('locks' in navigator)
    navigator.locks.request('apple-porch changes', { signal: ended.signal }, listen).catch(() => undefined);
  else void listen();
  const stopMinding = mindTheStream();
  document.addEventListener('visibilitychange', read);
  return () => {
    ended.abort();
    stopMinding();
    channel.close();
    document.removeEventListener('visibilitychange', read);
  };
}

/** Takes every event of the stream, and passes it on, until it is stopped. */
function streamUntil(signal: AbortSignal, passOn: (event: ChangeEvent) => void): Promise<void> {
  return new Promise((resolve) => {
    let source: EventSource | undefined;
    let again: ReturnType<typeof setTimeout>;
    const open = () => {
      const opened = new EventSource(`/api/changes?after=${followedTo || latestPosition()}`);
      opened.onmessage = ({ data }) => {
        const event = take(JSON.parse(data));
        if (event) passOn(event);
      };
      // A lost connection is made again by the browser; one that was refused is not.
      opened.onerror = () => {
        if (opened.readyState === EventSource.CLOSED) again = setTimeout(open, tryAgainAfter);
      };
      source = opened;
    };
    signal.addEventListener('abort', () => {
      clearTimeout(again);
      source?.close();
      resolve();
    });
    open();
  });
}

function take(data: unknown): ChangeEvent | undefined {
  const event = changeEventSchema.safeParse(data).data;
  if (!event) return undefined;
  if (event.changes.length > 0) forgetEarly();
  followedTo = Math.max(followedTo, event.position);
  waiting.push(...event.changes);
  timer ??= setTimeout(read, Math.max(shortPause, readAt + pause - Date.now()));
  return event;
}

/** Reads again what is on screen and made of something that changed; in a hidden window once it is shown. */
function read(): void {
  clearTimeout(timer);
  timer = undefined;
  if (document.hidden || waiting.length === 0) return;
  const changes = waiting;
  waiting = [];
  readAt = Date.now();
  const some = changedDocuments(changes);
  void mutate(
    (key) => typeof key === 'string' && !(some && key === listPath) && isMadeOf(key, changes, isKnownHere),
  );
  if (some) void readThose(some);
}

/** Reads everything again where answers know of changes that the stream does not bring. */
function mindTheStream(): () => void {
  let allReadAt = 0;
  let minding: ReturnType<typeof setTimeout> | undefined;
  const mind = () => {
    minding = undefined;
    if (latestPosition() <= followedTo) return;
    followedTo = latestPosition();
    allReadAt = Date.now();
    readAgain();
  };
  const stop = onPosition((position) => {
    if (position > followedTo)
      minding ??= setTimeout(mind, Math.max(patience, allReadAt + longPause - Date.now()));
  });
  return () => {
    clearTimeout(minding);
    stop();
  };
}
