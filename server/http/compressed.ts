import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';
import compression from 'compression';
import type { Request, RequestHandler, Response } from 'express';
import { LRUCache } from 'lru-cache';

const withBrotli = promisify(brotliCompress);
const withGzip = promisify(gzip);

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

/** Most characters of text that are kept ready to send. */
const mostReady = 16 * 2 ** 20;

type Encoding = 'br' | 'gzip' | 'identity';

/**
 * The texts that were sent last, ready to be sent again: as bytes, compressed, with their ETag. Most visitors get a page
 * that somebody else got before.
 */
export class ReadyTexts {
  private readonly texts = new LRUCache<string, ReadyText>({
    maxSize: mostReady,
    sizeCalculation: (_ready, text) => text.length + 1,
  });

  /**
   * Sends a text in the smallest form that the other side reads, compressed where it may be.
   *
   * @param isForAll whether everybody gets the same, so that it holds no secret, however it is sent
   */
  send(request: Request, response: Response, text: string, isForAll: boolean): void {
    let ready = this.texts.get(text);
    if (!ready) {
      ready = new ReadyText(text);
      this.texts.set(text, ready);
    }
    ready.send(request, response, isForAll);
  }
}

class ReadyText {
  private readonly bytes: Buffer;
  private readonly encoded = new Map<Encoding, { bytes: Buffer; tag: string | undefined }>();

  constructor(text: string) {
    this.bytes = Buffer.from(text);
  }

  send(request: Request, response: Response, isForAll: boolean): void {
    if (!isForAll && !mayBeCompressed(request, response)) {
      this.sendAs('identity', response);
      return;
    }
    response.vary('Accept-Encoding');
    this.sendAs(this.bytes.length < smallest ? 'identity' : encodingFor(request), response);
  }

  private sendAs(encoding: Encoding, response: Response): void {
    const known = this.encoded.get(encoding);
    if (known) {
      if (encoding !== 'identity') response.setHeader('Content-Encoding', encoding);
      if (known.tag !== undefined) response.setHeader('ETag', known.tag);
      response.send(known.bytes);
      return;
    }
    encode(this.bytes, encoding).then(
      (bytes) => {
        if (encoding !== 'identity') response.setHeader('Content-Encoding', encoding);
        response.send(bytes);
        this.encoded.set(encoding, { bytes, tag: response.get('ETag') });
      },
      () => response.send(this.bytes),
    );
  }
}

async function encode(bytes: Buffer, encoding: Encoding): Promise<Buffer> {
  if (encoding === 'br') return withBrotli(bytes, quality);
  return encoding === 'gzip' ? withGzip(bytes) : bytes;
}

function encodingFor(request: Request): Encoding {
  if (request.headers['accept-encoding'] === undefined) return 'identity';
  if (request.acceptsEncodings('br')) return 'br';
  return request.acceptsEncodings('gzip') ? 'gzip' : 'identity';
}
