import type { Request, RequestHandler } from 'express';
import { create } from 'jsondiffpatch';
import { LRUCache } from 'lru-cache';
import { differenceEncoding } from '../../contract/headers.ts';

/** Smaller answers are sent as they are, in characters. */
const smallest = 2_000;
/** How many characters of the latest answers are remembered. */
const mostRemembered = 32_000_000;

const compared = create({
  // A row of a list is the same row wherever it is. What is no row may be asked about too, even nothing.
  objectHash: (row, index) => {
    const { id } = Object(row);
    return id === undefined ? `at ${index}` : `id ${id}`;
  },
  arrays: { detectMove: true, includeValueOnMove: false },
  omitRemovedValues: true,
});

/**
 * Sends whoever has an earlier answer what differs from it, where that is shorter (RFC 3229, delta encoding in HTTP). A long
 * list with one row changed then costs about a row on the wire. What was sent is remembered by its address and ETag, by each
 * server for itself; where it is not known, the whole is sent.
 */
export function differences(): RequestHandler {
  const sent = new LRUCache<string, string>({
    maxSize: mostRemembered,
    sizeCalculation: (text) => text.length,
  });
  return (request, response, next) => {
    if (request.method !== 'GET') return next();
    const { json } = response;
    response.json = (body: unknown) => {
      const text = JSON.stringify(body);
      if (response.statusCode !== 200 || text === undefined || text.length < smallest)
        return json.call(response, body);
      const tag: string = request.app.get('etag fn')(text, 'utf8');
      sent.set(`${tag} ${request.originalUrl}`, text);
      response.type('json').set('ETag', tag);
      const earlier = tag === request.get('if-none-match') ? undefined : known(request);
      const difference = earlier && JSON.stringify(compared.diff(JSON.parse(earlier), JSON.parse(text)));
      if (difference === undefined || difference.length > text.length / 2) return response.send(text);
      return response.status(226).set('IM', differenceEncoding).send(difference);
    };
    /** The answer that the browser says it has. */
    const known = (asked: Request) =>
      asked.get('a-im') === differenceEncoding
        ? sent.get(`${asked.get('if-none-match')} ${asked.originalUrl}`)
        : undefined;
    next();
  };
}
