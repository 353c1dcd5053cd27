import { createSecretKey } from 'node:crypto';
import { parse } from 'cookie';
import { unsign } from 'cookie-signature';
import type { Request, RequestHandler } from 'express';
import { LRUCache } from 'lru-cache';
import type { Sessions } from '../store/sessions.ts';

/** Holds the session of who is signed in on the site. */
export const signedInCookie = 'porch_site';
/** Holds who was recognised by a link from an email. */
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
  const sessionIn = sessionReader(secret);
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
    const sid = sessionIn(cookies[signedInCookie]);
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

/** How many cookies are remembered as rightly signed. */
const mostTrusted = 10_000;

/** Reads the id of a session from its cookie, as express-session writes it; undefined where nobody here signed it. */
function sessionReader(secret: string): (value: string | undefined) => string | undefined {
  const key = createSecretKey(Buffer.from(secret));
  // Working out a signature takes longer than deciding a page, and each visitor brings the same one with every request.
  const trusted = new LRUCache<string, string>({ max: mostTrusted });
  return (value) => {
    if (!value?.startsWith('s:')) return undefined;
    const known = trusted.get(value);
    if (known !== undefined) return known;
    const sid = unsign(value.slice(2), key) || undefined;
    if (sid === undefined) return undefined;
    trusted.set(value, sid);
    return sid;
  };
}
