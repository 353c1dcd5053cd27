import { createSecretKey, type KeyObject } from 'node:crypto';
import { parse } from 'cookie';
import { unsign } from 'cookie-signature';
import type { Request, RequestHandler } from 'express';
import type { Sessions } from '../store/sessions.ts';

/** Holds the session of who is signed in on the site. */
export const signedInCookie = 'porch_site';
/** Holds who was recognised by a link from an email, or by a form. */
export const knownCookie = 'porch_known';

declare module 'express-serve-static-core' {
  interface Request {
    visitor?: Visitor;
  }
}

/** What a request to the site brings of who comes. */
export interface Visitor {
  readonly cookies: { readonly [name: string]: string | undefined };
  /** The contact signed in. */
  readonly signedIn: number | undefined;
}

const withoutCookies: Visitor = { cookies: {}, signedIn: undefined };

export function visitorOf(request: Request): Visitor {
  return request.visitor ?? withoutCookies;
}

/**
 * Reads who comes. A request that only reads a page looks its session up and leaves it as it is, which costs a part of
 * having one that may change; all others get one by `withSession`.
 *
 * @param secret what the session cookie is signed with
 */
export function readVisitor(secret: string, sessions: Sessions, withSession: RequestHandler): RequestHandler {
  const key = createSecretKey(Buffer.from(secret));
  return (request, response, next) => {
    const { cookie } = request.headers;
    if (request.method !== 'GET' && request.method !== 'HEAD') {
      withSession(request, response, (error?: unknown) => {
        request.visitor = { cookies: parse(cookie ?? ''), signedIn: request.session?.contactId };
        next(error);
      });
      return;
    }
    if (cookie === undefined) return next();
    const cookies = parse(cookie);
    const sid = sessionIn(cookies[signedInCookie], key);
    if (sid === undefined) {
      request.visitor = { cookies, signedIn: undefined };
      next();
      return;
    }
    sessions.use(sid, (error, session) => {
      request.visitor = { cookies, signedIn: session?.contactId };
      next(error ?? undefined);
    });
  };
}

/** The id of a session from its cookie, as express-session writes it; undefined where nobody here signed it. */
function sessionIn(value: string | undefined, key: KeyObject): string | undefined {
  if (!value?.startsWith('s:')) return undefined;
  return unsign(value.slice(2), key) || undefined;
}
