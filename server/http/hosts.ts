import type { NextFunction, Request, Response } from 'express';

const local = ['127.0.0.1', 'localhost', '[::1]'];

/**
 * Answers only under the names that the server is known by: another name that leads here, as one that an attacker has
 * point at this machine, gets nothing (RFC 9110, 7.4 and 15.5.20).
 *
 * @param address where the server listens
 * @param origins further origins that lead here, such as https://www.example.org
 */
export function knownHostsOnly(address: string, origins: readonly string[]) {
  const { port } = new URL(address);
  const known = new Set([
    ...local.flatMap((name) => [`${name}:${port}`, ...(port === '' || port === '80' ? [name] : [])]),
    ...origins.map((origin) => new URL(origin).host),
  ]);
  return (request: Request, response: Response, next: NextFunction): void => {
    if (known.has((request.headers.host ?? '').toLowerCase())) next();
    else response.status(421).type('text').send('This server is not known by that name.\n');
  };
}
