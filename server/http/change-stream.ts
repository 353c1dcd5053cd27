import type { Request, Response } from 'express';
import {
  type ChangeEvent,
  changeStreamQuerySchema,
  type LoggedChange,
  loggedKinds,
} from '../../contract/changes.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { sessionKey } from '../store/sessions.ts';
import { parse } from './parse.ts';

/** How often something is sent so that nobody on the way takes the connection for dead, in milliseconds. */
const heartbeat = 20_000;
/** Where more than this changed at once, they are not named. */
const mostNamed = 100;

/**
 * A stream of what changes, for the studio (HTML standard, 9.2, Server-sent events). Whoever was away says up to where they
 * were told and gets what they missed.
 */
export function changeStream(log: ChangeLog) {
  return async (request: Request, response: Response): Promise<void> => {
    const { after } = parse(changeStreamQuerySchema, request.query);
    const last = Number(request.get('last-event-id') || (after ?? log.position));
    const key = sessionKey(request.sessionID);
    response.set({
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      'X-Accel-Buffering': 'no',
    });
    response.flushHeaders();
    let position = last;
    /** What is told before that which was missed is sent. */
    let held: LoggedChange[] | undefined = [];
    const send = (changes: readonly LoggedChange[]) => {
      const fresh = changes.filter((change) => change.position > position);
      const latest = fresh.at(-1);
      if (!latest) return;
      position = latest.position;
      const event: ChangeEvent = { position, changes: fresh.flatMap(shown) };
      response.write(`id: ${position}\ndata: ${JSON.stringify(event)}\n\n`);
    };
    const stop = log.on(loggedKinds, (changes) => {
      if (held) held.push(...changes);
      else send(changes);
      // Whose session ended is told nothing more; others ask again at once, and go on where they were.
      if (changes.some(({ kind, ids }) => kind === 'session' && ids?.includes(key) !== false)) end();
    });
    const beating = setInterval(() => response.write(':\n\n'), heartbeat);
    const end = () => {
      clearInterval(beating);
      stop();
      response.end();
    };
    response.once('close', end);
    try {
      send(await log.since(last));
      send(held);
      held = undefined;
    } catch {
      // Whoever listens asks again.
      end();
    }
  };
}

function shown(change: LoggedChange): LoggedChange[] {
  if (change.kind === 'session') return [];
  return [change.ids && change.ids.length > mostNamed ? { ...change, ids: null } : change];
}
