import type { NextFunction, Request, Response } from 'express';
import type { Logger } from 'pino';
import { signedInAsHeader } from '../../contract/headers.ts';
import { Refusal } from '../refusal.ts';
import { isUnreachable } from '../store/reach.ts';

declare module 'express-session' {
  interface SessionData {
    /** The team account signed in to the studio. */
    account: { id: number; email: string; name: string };
    /** The contact signed in on the live site. */
    contactId: number;
  }
}

const safeMethods = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Refuses changes that another site's page asks for. Browsers say where a request comes from in Sec-Fetch-Site or
 * Origin; programs that are no browser send neither and carry no cookies of a person.
 */
export function sameOriginOnly(request: Request, _response: Response, next: NextFunction): void {
  if (safeMethods.has(request.method)) {
    next();
    return;
  }
  const site = request.get('sec-fetch-site');
  const origin = request.get('origin');
  const foreign =
    site !== undefined
      ? site !== 'same-origin' && site !== 'none'
      : origin !== undefined && !sameHost(origin, request.get('host'));
  next(foreign ? new Refusal(403, 'This request comes from another site and is refused.') : undefined);
}

function sameHost(origin: string, host: string | undefined): boolean {
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}

/**
 * Refuses whoever is not signed in, and a window of the studio whose browser has somebody else signed in since, so that
 * nothing is stored in another person's name.
 */
export function signedInOnly(request: Request, _response: Response, next: NextFunction): void {
  const { account } = request.session;
  const asked = request.get(signedInAsHeader);
  if (!account) next(new Refusal(401, 'Please sign in.'));
  else if (asked !== undefined && asked !== encodeURIComponent(account.email))
    next(new Refusal(401, `${account.name} is signed in now.`));
  else next();
}

/** The last handler: refusals as JSON with their words, anything else logged and answered without its inside. */
export function answerErrors(log: Logger) {
  return (error: unknown, request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const refusal = asRefusal(error) ?? asUnreachable(error, log);
    if (refusal) {
      response.status(refusal.status).json({ message: refusal.message, fields: [], ...refusal.more });
      return;
    }
    const id = String(request.id);
    log.error({ err: error, request: id, method: request.method, path: request.path }, 'a request failed');
    response.status(500).json({
      message: `Something went wrong on the server (error ${id.slice(0, 8)}). Check whether your change was saved, then try again.`,
      fields: [],
    });
  };
}

function asUnreachable(error: unknown, log: Logger): Refusal | undefined {
  if (!isUnreachable(error)) return undefined;
  // Briefly: as long as it is out, every request says so.
  log.warn({ reason: error instanceof Error ? error.message : '' }, 'the database can’t be reached');
  return new Refusal(503, unreachable);
}

const unreachable =
  'The database can’t be reached right now. Your unsaved changes are kept on screen and will be saved when it is back.';

export function asRefusal(error: unknown): Refusal | undefined {
  // Thrown by what looks at a body before it is parsed; the parser gives it a status of its own.
  if (error instanceof Error && 'type' in error && error.type === 'entity.verify.failed')
    return new Refusal(400, error.message);
  if (error instanceof Refusal) return error;
  // A path with a broken escape, as the router reports it.
  if (error instanceof Error && 'statusCode' in error && error.statusCode === 400 && !('type' in error))
    return new Refusal(400, 'This address can’t be read.');
  if (!(error instanceof Error) || !('type' in error)) return undefined;
  if (error.type === 'entity.too.large') return new Refusal(413, 'This is too large to be taken.');
  if (error.type === 'entity.parse.failed') return new Refusal(400, 'The body is not JSON.');
  // A charset or a coding that nobody knows (RFC 9110, 15.5.16), or a body that is otherwise not what it says.
  if (String(error.type).endsWith('.unsupported')) return new Refusal(415, 'The body can’t be read.');
  const isBad = 'statusCode' in error && Number(error.statusCode) >= 400 && Number(error.statusCode) < 500;
  return isBad ? new Refusal(400, 'The body can’t be read.') : undefined;
}
