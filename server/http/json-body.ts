import express, { type NextFunction, type Request, type RequestHandler, type Response } from 'express';
import { Refusal } from '../refusal.ts';

/** Matches a JSON escape of a surrogate (half a character), but not an escaped backslash before the letter u. */
const escapedHalf = /(?<!\\)(?:\\\\)*\\ud[89a-f]/i;
/**
 * Most objects and lists within each other. A condition may be nested a hundred deep, at two levels a group; what is
 * deeper would take up the stack of whatever walks through it.
 */
const deepest = 250;

/** Requests whose bodies have an escape that may be half of a character. */
const suspected = new WeakSet<object>();

/**
 * Reads a JSON body up to a size. A text with half of a character in it, as an emoji cut in two leaves, is refused: no
 * database could keep it. So is one that is nested too deep, before it is parsed.
 *
 * @param limit such as `2mb`
 */
export function jsonBody(limit: string): RequestHandler[] {
  return [
    express.json({
      limit,
      verify: (request, _response, bytes) => {
        if (isDeeper(bytes, deepest)) throw new Error('The body is nested too deep.');
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

/** Whether a JSON text nests objects and arrays more than `most` levels deep. Works on invalid JSON, too. */
function isDeeper(bytes: Buffer, most: number): boolean {
  let depth = 0;
  let isText = false;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    if (isText) {
      if (byte === 0x5c) at++;
      else if (byte === 0x22) isText = false;
    } else if (byte === 0x22) isText = true;
    else if (byte === 0x5b || byte === 0x7b) {
      if (++depth > most) return true;
    } else if (byte === 0x5d || byte === 0x7d) depth--;
  }
  return false;
}
