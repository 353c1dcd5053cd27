import type { Request, RequestHandler } from 'express';
import rateLimit from 'express-rate-limit';
import { Refusal } from '../refusal.ts';

/**
 * Refuses what is asked too often in a minute.
 *
 * @param limit how often it may be asked
 * @param keyOf whom it is counted for
 * @param isFree whose requests are not counted
 */
export function limited(
  limit: number,
  keyOf: (request: Request) => string,
  isFree: (request: Request) => boolean,
): RequestHandler {
  return rateLimit({
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

const hour = 3_600_000;
/** Most keys that are counted; beyond, all begin anew. */
const mostCounted = 100_000;

/** Counts by a key for an hour; for what is only known while a request is worked on. */
export class HourlyLimit {
  private counts = new Map<string, number>();
  private until = 0;

  constructor(private readonly most: number) {}

  /** Whether one more is within the limit; counts it. */
  take(key: string, now = Date.now()): boolean {
    if (now >= this.until || this.counts.size > mostCounted) {
      this.counts = new Map();
      this.until = now + hour;
    }
    const count = (this.counts.get(key) ?? 0) + 1;
    this.counts.set(key, count);
    return count <= this.most;
  }
}
