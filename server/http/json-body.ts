import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import { Refusal } from '../refusal.ts';

/** An escape, after any backslashes that stand for themselves. */
const escapedHalf = /(?<!\\)(?:\\\\)*\\ud[89a-f]/i;
/** Requests whose bodies have an escape that may be half of a character. */
const suspected = new WeakSet<object>();

/**
 * Reads a JSON body up to a size. A text with half of a character in it, as an emoji cut in two leaves, is refused: no
 * database could keep it.
 *
 * @param limit such as `2mb`
 */
export function jsonBody(limit: string): RequestHandler[] {
  return [
    express.json({
      limit,
      verify: (request, _response, bytes) => {
        if (escapedHalf.test(bytes.toString('latin1'))) suspected.add(request);
      },
    }),
    (request: Request, _response: Response, next: NextFunction): void => {
      next(
        suspected.has(request) && holdsHalf(request.body)
          ? new Refusal(400, 'A text in it ends in the middle of a character.')
          : undefined,
      );
    },
  ];
}

/** Whether any text in a body has half of a character; also where the body is nested too deep to be looked through. */
function holdsHalf(body: unknown): boolean {
  try {
    // Whole characters are written as they are; halves are the only ones that have to be escaped.
    return escapedHalf.test(JSON.stringify(body));
  } catch {
    return true;
  }
}
