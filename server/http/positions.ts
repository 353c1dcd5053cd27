import { parse } from 'cookie';
import type { RequestHandler } from 'express';
import onHeaders from 'on-headers';
import { positionHeader } from '../../contract/headers.ts';
import type { ChangeLog } from '../store/change-log.ts';

/** Holds up to which change a visitor of the site has to find everything, after they stored something themselves. */
export const positionCookie = 'porch_position';
/** Every server knows of a change long before this, in milliseconds. */
const matters = 60_000;

/**
 * Has programs and the studio find what they were told before, whichever server told them: each answer brings its position
 * in the log of changes, and the next request waits for it.
 */
export function positionInHeader(log: ChangeLog): RequestHandler {
  return async (request, response, next) => {
    onHeaders(response, () => response.setHeader(positionHeader, log.position));
    await reach(log, request.get(positionHeader));
    next();
  };
}

/** Has visitors of the site find what they sent with a form, whichever server answers them next. */
export function positionInCookie(log: ChangeLog): RequestHandler {
  return (request, response, next) => {
    const { cookie } = request.headers;
    if (request.method !== 'GET' && request.method !== 'HEAD')
      onHeaders(response, () => {
        response.cookie(positionCookie, String(log.position), {
          path: '/site',
          httpOnly: true,
          sameSite: 'lax',
          secure: request.secure,
          maxAge: matters,
        });
      });
    if (!cookie?.includes(positionCookie)) return next();
    reach(log, parse(cookie)[positionCookie]).then(() => next(), next);
  };
}

/** A position that is no number, or that is never reached, keeps nobody from an answer. */
async function reach(log: ChangeLog, asked: string | undefined): Promise<void> {
  const position = /^\d{1,15}$/.test(asked ?? '') ? Number(asked) : 0;
  if (position > log.position) await log.until(position);
}
