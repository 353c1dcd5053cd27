import { brotliCompress, brotliCompressSync, constants, gzip, gzipSync } from 'node:zlib';
import compression from 'compression';
import type { Request, RequestHandler, Response } from 'express';

/** Where compressing takes about as long as sending what it saves. */
const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: 5 } };
/** Smaller answers fit into one packet as they are. In bytes. */
const smallest = 1024;

/**
 * Compresses answers of text. The length of a compressed answer tells whether something in it is there twice, so that
 * whoever can have a browser ask again and again, with guesses that the answer repeats, reads a secret in it letter by
 * letter (Prado, Harris, Gluck: BREACH, 2013). What is meant for one person is therefore compressed for the program's own
 * pages only, and not where another site made the browser ask (W3C Fetch Metadata, Sec-Fetch-Site).
 */
export function compressed(): RequestHandler {
  return compression({
    threshold: smallest,
    brotli: quality,
    filter: (request, response) =>
      // It is sent in pieces, each of which must arrive at once.
      !String(response.getHeader('Content-Type')).startsWith('text/event-stream') &&
      mayBeCompressed(request, response) &&
      compression.filter(request, response),
  });
}

/** Sends a text that was made for this one request, under the same rule, for less than what holds for answers of all kinds. */
export function sendText(request: Request, response: Response, text: string): void {
  if (text.length < smallest || !mayBeCompressed(request, response)) {
    response.send(text);
    return;
  }
  response.vary('Accept-Encoding');
  const encoding = encodingFor(request);
  const sendAs = (error: Error | null, bytes: Buffer) => {
    if (error) response.send(text);
    else response.set('Content-Encoding', encoding).send(bytes);
  };
  if (encoding === 'br') brotliCompress(text, quality, sendAs);
  else if (encoding === 'gzip') gzip(text, sendAs);
  else response.send(text);
}

function mayBeCompressed(request: Request, response: Response): boolean {
  return isForAnybody(response) || isAskedHere(request);
}

function isForAnybody(response: { getHeader(name: string): unknown }): boolean {
  return !/private|no-store/.test(String(response.getHeader('Cache-Control') ?? ''));
}

function isAskedHere({ headers }: Pick<Request, 'headers'>): boolean {
  const site = headers['sec-fetch-site'];
  return site === 'same-origin' || site === 'none';
}

/** A text that is sent again and again, compressed, and given a tag, once for each way of doing so. */
export class ReadyText {
  private readonly bytes: Buffer;
  private readonly encoded = new Map<
    'br' | 'gzip' | 'identity',
    { bytes: Buffer; tag: string | undefined }
  >();

  constructor(text: string) {
    this.bytes = Buffer.from(text);
  }

  /** Sends it in the smallest form that the other side reads. */
  send(request: Request, response: Response): void {
    response.vary('Accept-Encoding');
    const encoding = this.bytes.length < smallest ? 'identity' : encodingFor(request);
    if (encoding !== 'identity') response.set('Content-Encoding', encoding);
    const known = this.encoded.get(encoding);
    if (known?.tag !== undefined) response.set('ETag', known.tag);
    const bytes = known?.bytes ?? encode(this.bytes, encoding);
    response.send(bytes);
    if (!known) this.encoded.set(encoding, { bytes, tag: response.get('ETag') });
  }
}

function encode(bytes: Buffer, encoding: 'br' | 'gzip' | 'identity'): Buffer {
  if (encoding === 'br') return brotliCompressSync(bytes, quality);
  return encoding === 'gzip' ? gzipSync(bytes) : bytes;
}

function encodingFor(request: Request): 'br' | 'gzip' | 'identity' {
  if (request.headers['accept-encoding'] === undefined) return 'identity';
  if (request.acceptsEncodings('br')) return 'br';
  return request.acceptsEncodings('gzip') ? 'gzip' : 'identity';
}
