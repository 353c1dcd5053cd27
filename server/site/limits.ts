import type { Request, RequestHandler } from 'express';
import rateLimit from 'express-rate-limit';
import type { SharedCounts } from '../http/limit-rows.ts';
import { Refusal } from '../refusal.ts';

/**
 * Refuses what is asked too often in a minute.
 *
 * @param counts where it is counted
 * @param what what is asked
 * @param limit how often it may be asked
 * @param keyOf whom it is counted for
 * @param isFree whose requests are not counted
 */
export function limited(
  counts: SharedCounts,
  what: string,
  limit: number,
  keyOf: (request: Request) => string,
  isFree: (request: Request) => boolean,
): RequestHandler {
  return rateLimit({
    store: counts.storeOf(what),
    windowMs: 60_000,
    limit,
    keyGenerator: keyOf,
    skip: isFree,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_request, _response, next) =>
      next(
        new Refusal(
          429,
          'This was sent often from here in the last minute. Wait a minute, then send it again.',
        ),
      ),
  });
}
