import express, { type RequestHandler } from 'express';
import { expect, it } from 'vitest';
import { inTurn } from './in-turn.ts';

/** What some handlers, one after another, answer at last, and which of them were asked. */
async function answerOf(...handlers: RequestHandler[]): Promise<string> {
  const app = express();
  app.use(inTurn(...handlers), (_request, response) => {
    response.send('through');
  });
  const answerError: express.ErrorRequestHandler = (error, _request, response, _next) => {
    response.send(`refused: ${error.message}`);
  };
  app.use(answerError);
  const server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const address = server.address();
  const answer = await fetch(`http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}/`);
  server.close();
  return answer.text();
}

const later: RequestHandler = (_request, _response, next) => {
  setImmediate(next);
};
const throws: RequestHandler = () => {
  throw new Error('thrown');
};

it.each([
  ['through', []],
  ['through', [later, later]],
  ['refused: told', [later, (_request, _response, next) => next(new Error('told')), throws]],
  // Also where whoever calls it is no router any more.
  ['refused: thrown', [later, throws]],
  ['refused: thrown', [throws, later]],
  ['answered', [later, (_request, response) => response.send('answered'), throws]],
] satisfies [string, RequestHandler[]][])(
  'handlers in turn end as single ones do: %s',
  async (end, handlers) => {
    expect(await answerOf(...handlers)).toBe(end);
  },
);
