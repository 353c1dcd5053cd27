import type { AddressInfo } from 'node:net';
import express from 'express';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { answerErrors } from '../../server/http/guards.ts';
import { openLog, requestLog } from '../../server/http/request-log.ts';
import { Refusal } from '../../server/refusal.ts';

const logged: string[] = [];
let address = '';
let stop = () => {};
beforeAll(async () => {
  const app = express();
  const log = openLog('error', { write: (line) => void logged.push(line) });
  app.use(requestLog(log), express.json({ limit: 100 }));
  app.get('/refused', () => {
    throw new Refusal(409, 'Somebody was quicker.', { current: { revision: 2 } });
  });
  app.get('/broken', async () => {
    throw new Error('the secret of the inside');
  });
  app.get('/half', (_request, response) => {
    response.write('half');
    throw new Error('too late to say');
  });
  app.get('/named/:id', (_request, response) => void response.send('there'));
  app.post('/', (_request, response) => void response.send('taken'));
  app.use(answerErrors(log));
  const server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  stop = () => {
    server.closeAllConnections();
    server.close();
  };
});
afterAll(() => stop());

it('a refusal is answered with its words and what goes with it', async () => {
  const answer = await fetch(`${address}/refused`);
  expect([answer.status, await answer.json()]).toEqual([
    409,
    { message: 'Somebody was quicker.', fields: [], current: { revision: 2 } },
  ]);
  expect(logged).toEqual([]);
});

it('anything else is logged, and answered without its inside', async () => {
  const answer = await fetch(`${address}/broken`);
  const text = await answer.text();
  expect([answer.status, text.includes('secret')]).toEqual([500, false]);
  expect(JSON.parse(text).message).toMatch(/^Something went wrong on the server/);
  expect(logged).toHaveLength(1);
  const { err, path, request } = JSON.parse(logged[0] ?? '');
  expect([err.message, path]).toEqual(['the secret of the inside', '/broken']);
  expect(err.stack).toContain('errors.test.ts');
  // Whoever tells of it can name the line in the log.
  expect(answer.headers.get('x-request-id')).toBe(request);
  expect(JSON.parse(text).message).toContain(request.slice(0, 8));
});

it('an answer that was begun is broken off, not completed as if it were whole', async () => {
  const answer = await fetch(`${address}/half`);
  await expect(answer.text()).rejects.toThrow();
});

it.each([
  ['{"a":', 400, 'The body is not JSON.'],
  [JSON.stringify({ long: 'x'.repeat(200) }), 413, 'This is too large to be taken.'],
])('a body such as %j is refused', async (body, status, message) => {
  const headers = { 'content-type': 'application/json' };
  const answer = await fetch(address, { method: 'POST', headers, body });
  expect([answer.status, (await answer.json()).message]).toEqual([status, message]);
});

it('a body in an encoding that nobody knows, and a path with a broken escape, are refused', async () => {
  const json = 'application/json';
  const unknown: Record<string, string>[] = [
    { 'content-type': `${json}; charset=klingon` },
    { 'content-type': json, 'content-encoding': 'klingon' },
  ];
  for (const headers of unknown) {
    const answer = await fetch(address, { method: 'POST', headers, body: '{}' });
    // RFC 9110, 15.5.16.
    expect([answer.status, (await answer.json()).message]).toEqual([415, 'The body can’t be read.']);
  }
  const broken = await fetch(`${address}/named/%E0%A4%A`);
  expect([broken.status, (await broken.json()).message]).toEqual([400, 'This address can’t be read.']);
});
