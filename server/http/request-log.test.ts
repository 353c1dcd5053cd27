import { Writable } from 'node:stream';
import express from 'express';
import { afterEach, describe, expect, it } from 'vitest';
import { answerErrors } from './guards.ts';
import { openLog, requestLog } from './request-log.ts';

const stops: (() => void)[] = [];
afterEach(() => {
  for (const stop of stops.splice(0)) stop();
});

/** A server that only logs, and what it logged. */
async function serving(level: string) {
  const lines: { [name: string]: unknown }[] = [];
  const logger = openLog(
    level,
    new Writable({
      write(chunk: Buffer, _encoding, done) {
        for (const line of chunk.toString().trim().split('\n')) lines.push(JSON.parse(line));
        done();
      },
    }),
  );
  const app = express();
  app.use(requestLog(logger), express.json());
  app.post('/fails', () => {
    const error = new Error('it broke');
    throw Object.assign(error, { sql: 'INSERT …', parameters: ['a-hash-of-a-password'] });
  });
  app.use((_request, response) => {
    response.json({ fine: true });
  });
  app.use(answerErrors(logger));
  const server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  stops.push(() => server.close());
  const address = server.address();
  const port = typeof address === 'object' ? address?.port : 0;
  return { lines, ask: (path: string, how?: RequestInit) => fetch(`http://127.0.0.1:${port}${path}`, how) };
}

const secrets = {
  method: 'POST',
  headers: {
    'content-type': 'application/json',
    authorization: 'Bearer a-secret-key',
    cookie: 'porch_studio=a-session-id',
  },
  body: JSON.stringify({ email: 'maya@example.org', password: 'a-password' }),
};

describe('the log of requests', () => {
  it('says of each how it ended, and nothing that was sent with it', async () => {
    const { lines, ask } = await serving('info');
    const answer = await ask('/site/unsubscribe?token=a-signed-link', secrets);
    expect(lines).toMatchObject([
      {
        request: answer.headers.get('x-request-id'),
        method: 'POST',
        path: '/site/unsubscribe',
        status: 200,
        msg: 'answered',
      },
    ]);
    expect(JSON.stringify(lines)).not.toMatch(/a-signed-link|a-secret-key|a-session-id|a-password|maya/);
  });

  it('says what failed under the same id, without the values of a query', async () => {
    const { lines, ask } = await serving('warn');
    const answer = await ask('/fails?token=a-signed-link', secrets);
    const id = answer.headers.get('x-request-id');
    expect(answer.status).toBe(500);
    expect((await answer.json()).message).toContain(id?.slice(0, 8));
    expect(lines).toMatchObject([{ request: id, path: '/fails', err: { message: 'it broke' } }]);
    expect(JSON.stringify(lines)).not.toMatch(/a-signed-link|a-hash-of-a-password|a-password/);
  });

  it('goes on with the id that a proxy gave, and with no other text', async () => {
    const { ask } = await serving('warn');
    const given = (id: string) => ask('/', { headers: { 'x-request-id': id } });
    expect((await given('from-the-proxy-1')).headers.get('x-request-id')).toBe('from-the-proxy-1');
    for (const id of ['short', 'x'.repeat(65), '{"level":60}'])
      expect((await given(id)).headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/);
  });

  it('is silent about what went well where only warnings are wanted', async () => {
    const { lines, ask } = await serving('warn');
    await ask('/');
    expect(lines).toEqual([]);
  });
});
