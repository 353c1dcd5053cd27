import { randomUUID } from 'node:crypto';
import type { Request, RequestHandler, Response } from 'express';
import pino, { type DestinationStream, type Logger } from 'pino';

/**
 * The log of a server: a line of JSON for each thing that happened, on standard output.
 *
 * @param to where the lines go instead
 */
export function openLog(level: string, to?: DestinationStream): Logger {
  const settings = { level, serializers: { err: briefly } };
  return to ? pino(settings, to) : pino(settings);
}

declare module 'express-serve-static-core' {
  interface Request {
    /** What this request is called in the log and in the header X-Request-Id. */
    id: string;
  }
}

/**
 * Gives each request an id, that of a proxy before this server where it sent one, which is in every line about the request
 * and in the header X-Request-Id of the answer. At the level `info` a line says of each how it ended. Addresses are
 * logged without their query, and of headers and bodies nothing is: they hold passwords, keys and signed links.
 */
export function requestLog(logger: Logger): RequestHandler {
  const isToldOfEach = logger.isLevelEnabled('info');
  return (request, response, next) => {
    const given = request.headers['x-request-id'];
    request.id = typeof given === 'string' && /^[\w-]{8,64}$/.test(given) ? given : randomUUID();
    response.setHeader('X-Request-Id', request.id);
    if (isToldOfEach) tellHowItEnds(logger, request, response);
    next();
  };
}

function tellHowItEnds(logger: Logger, request: Request, response: Response): void {
  const started = performance.now();
  response.once('close', () => {
    const how = {
      request: request.id,
      method: request.method,
      path: request.originalUrl.split('?')[0],
      status: response.statusCode,
      responseTime: Math.round(performance.now() - started),
    };
    if (!response.writableFinished) logger.info(how, 'broken off by the other side');
    else logger.info(how, response.statusCode >= 500 ? 'answered with a failure' : 'answered');
  });
}

/** An error without what it was about: a failed query holds the values that it was given. */
function briefly(error: unknown): unknown {
  if (!(error instanceof Error)) return error;
  const { name, message, stack } = error;
  return { type: name, message, stack };
}
