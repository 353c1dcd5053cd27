import type { RequestHandler } from 'express';

/** Some handlers as one, which costs a request less than a layer of a router for each. */
export function inTurn(...handlers: readonly RequestHandler[]): RequestHandler {
  return (request, response, next) => {
    let at = 0;
    const goOn = (problem?: unknown): void => {
      const handler = handlers[at++];
      if (problem !== undefined || !handler) {
        next(problem);
        return;
      }
      try {
        handler(request, response, goOn);
      } catch (error) {
        next(error);
      }
    };
    goOn();
  };
}
