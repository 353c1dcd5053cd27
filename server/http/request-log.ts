import { randomUUID } from 'node:crypto';
import pino, { type DestinationStream, type Logger } from 'pino';
import { type HttpLogger, pinoHttp } from 'pino-http';

/**
 * The log of a server: a line of JSON for each thing that happened, on standard output.
 *
 * @param to where the lines go instead
 */
export function openLog(level: string, to?: DestinationStream): Logger {
  const settings = { level, serializers: { err: briefly } };
  return to ? pino(settings, to) : pino(settings);
}

/**
 * Gives each request an id, that of a proxy before this server where it sent one, which is in every line about the request
 * and in the header X-Request-Id of the answer. At the level `info` a line says of each how it ended. Addresses are
 * logged without their query, and of headers and bodies nothing is: they hold passwords, keys and signed links.
 */
export function requestLog(logger: Logger): HttpLogger {
  return pinoHttp({
    logger,
    quietReqLogger: true,
    customAttributeKeys: { reqId: 'request' },
    genReqId(request, response) {
      const given = request.headers['x-request-id'];
      const id = typeof given === 'string' && /^[\w-]{8,64}$/.test(given) ? given : randomUUID();
      response.setHeader('X-Request-Id', id);
      return id;
    },
    autoLogging: logger.isLevelEnabled('info'),
    customLogLevel: () => 'info',
    customSuccessMessage: () => 'answered',
    customErrorMessage: () => 'answered with a failure',
    customSuccessObject: (request, response, value) => ({ ...value, ...aboutAnswer(request, response) }),
    customErrorObject: (request, response, _error, value) => ({
      ...value,
      ...aboutAnswer(request, response),
    }),
    serializers: { req: () => undefined, res: () => undefined },
  });
}

function aboutAnswer(
  request: { readonly method?: string; readonly originalUrl?: string; readonly url?: string },
  response: { readonly statusCode: number },
) {
  const [path] = (request.originalUrl ?? request.url ?? '').split('?');
  return { method: request.method, path, status: response.statusCode };
}

/** An error without what it was about: a failed query holds the values that it was given. */
function briefly(error: unknown): unknown {
  if (!(error instanceof Error)) return error;
  const { name, message, stack } = error;
  return { type: name, message, stack };
}
