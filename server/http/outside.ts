import type { LookupAddress, LookupOptions } from 'node:dns';
import { lookup } from 'node:dns/promises';
import { type IncomingMessage, request as plainRequest } from 'node:http';
import { request as secureRequest } from 'node:https';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';

/** A request to elsewhere that could not be made, in words for whoever asked for it. */
export class OutsideError extends Error {}

/** An address that nothing is asked at, however often. */
export class RefusedAddress extends OutsideError {}

export interface OutsideAnswer {
  readonly status: number;
  readonly headers: IncomingMessage['headers'];
  readonly text: string;
}

interface Asked {
  readonly headers?: { readonly [name: string]: string };
  readonly signal?: AbortSignal;
  /** Longest time that it may take in all, in milliseconds. */
  readonly patience: number;
  /** Most bytes of an answer. */
  readonly longest: number;
}

const mostRedirects = 3;

/**
 * Requests to other servers that people give the address of. Addresses within the network that this server stands in are
 * refused, since they lead to what is not open to those people (OWASP, Server-Side Request Forgery): a name is resolved
 * once, and what was looked at is what is connected to.
 */
export class Outside {
  /** @param allowed hosts, with their port where only that one is meant, that may be private all the same */
  constructor(private readonly allowed: ReadonlySet<string>) {}

  /**
   * Gets what is at an address, through a few redirects. What is secret in the headers stays with the first host.
   *
   * @throws OutsideError where that is not possible or not allowed
   */
  async get(address: string, asked: Asked): Promise<OutsideAnswer> {
    const limit = AbortSignal.timeout(asked.patience);
    const signal = asked.signal ? AbortSignal.any([asked.signal, limit]) : limit;
    let url = new URL(address);
    let { headers = {} } = asked;
    for (let redirects = 0; ; redirects++) {
      const answer = await this.once(url, headers, asked.longest, signal).catch((error: unknown) => {
        if (limit.aborted)
          throw new OutsideError(`It did not answer within ${asked.patience / 1000} seconds.`);
        throw error;
      });
      const next = answer.status >= 300 && answer.status < 400 ? answer.headers.location : undefined;
      if (next === undefined) return answer;
      if (redirects === mostRedirects)
        throw new OutsideError('It leads from one address to the next without an end.');
      const to = new URL(next, url);
      if (to.origin !== url.origin) headers = {};
      url = to;
    }
  }

  private async once(
    url: URL,
    headers: NonNullable<Asked['headers']>,
    longest: number,
    signal: AbortSignal,
  ): Promise<OutsideAnswer> {
    if (url.protocol !== 'http:' && url.protocol !== 'https:')
      throw new RefusedAddress('Its address does not begin with http:// or https://.');
    if (url.username !== '' || url.password !== '') throw new RefusedAddress('Its address holds a password.');
    const isAllowed = this.allowed.has(url.host) || this.allowed.has(url.hostname);
    const host = url.hostname.replace(/^\[|\]$/g, '');
    if (isIP(host) && !isAllowed) refusePrivate(host);
    const request = url.protocol === 'https:' ? secureRequest : plainRequest;
    return new Promise((resolve, reject) => {
      const sent = request(
        url,
        {
          headers: { ...headers, 'accept-encoding': 'identity' },
          signal,
          agent: false,
          lookup: (name, options, answer) => {
            resolved(name, options, isAllowed).then(
              (found) => {
                const [first] = found;
                if (options.all) answer(null, found);
                else answer(null, first?.address ?? '', first?.family);
              },
              (error: NodeJS.ErrnoException) => answer(error, []),
            );
          },
        },
        (response) => {
          const chunks: Buffer[] = [];
          let length = 0;
          response.on('data', (chunk: Buffer) => {
            length += chunk.length;
            chunks.push(chunk);
            if (length > longest)
              response.destroy(new OutsideError(`It sends more than ${longest / 1e6} MB.`));
          });
          response.on('error', reject);
          response.on('end', () =>
            resolve({
              status: response.statusCode ?? 0,
              headers: response.headers,
              text: Buffer.concat(chunks).toString('utf8'),
            }),
          );
        },
      );
      sent.on('error', (error) =>
        reject(error instanceof OutsideError ? error : new OutsideError(wordsFor(error))),
      );
      sent.end();
    });
  }
}

async function resolved(name: string, options: LookupOptions, isAllowed: boolean): Promise<LookupAddress[]> {
  const found = await lookup(name, { ...options, all: true });
  if (!isAllowed) for (const { address } of found) refusePrivate(address);
  return found;
}

/** Refuses what is not an address of the open internet: this machine, its network, and what stands for either. */
function refusePrivate(address: string): void {
  if (ipaddr.process(address).range() !== 'unicast')
    throw new RefusedAddress(
      'It is within this server’s own network, where nothing is asked for. Whoever runs the server can allow it.',
    );
}

function wordsFor(error: Error): string {
  const code = 'code' in error ? String(error.code) : '';
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return 'There is no server of that name.';
  if (code === 'ECONNREFUSED') return 'Nothing answers there.';
  return error.message;
}
