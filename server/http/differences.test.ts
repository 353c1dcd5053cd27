import { once } from 'node:events';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import fc from 'fast-check';
import { patch } from 'jsondiffpatch';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { differences } from './differences.ts';

let now: unknown;
let server: Server;
let address: string;

beforeAll(async () => {
  const app = express();
  app.use(differences());
  app.get('/list', (_request, response) => {
    response.json(now);
  });
  server = app.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  address = `http://127.0.0.1:${port}/list`;
});
afterAll(() => server.close());

const ask = async (tag = '', encoding = 'jsondiffpatch', query = '') => {
  const headers = { ...(tag && { 'if-none-match': tag }), 'a-im': encoding, 'cache-control': 'max-age=0' };
  const answer = await fetch(address + query, { headers });
  return { status: answer.status, tag: answer.headers.get('etag') ?? '', text: await answer.text() };
};

const rows = (count: number, changed?: number) =>
  Array.from({ length: count }, (_, id) => ({
    id,
    name: `Row ${id}`,
    words: id === changed ? 'other words' : 'words',
  }));

it('sends the row that changed, however many there are', async () => {
  const sizes: number[] = [];
  for (const count of [100, 1000]) {
    now = rows(count);
    const { tag, text } = await ask();
    now = rows(count, 7);
    const differs = await ask(tag);
    expect(differs.status).toBe(226);
    expect(patch(JSON.parse(text), JSON.parse(differs.text))).toEqual(now);
    sizes.push(differs.text.length);
  }
  expect(sizes[1]).toBe(sizes[0]);
});

it('sends the whole to whoever has none of it, did not ask for less, or has the answer of another address', async () => {
  now = rows(100);
  const { tag } = await ask();
  now = rows(100, 7);
  const whole = JSON.stringify(now);
  expect(await ask()).toMatchObject({ status: 200, text: whole });
  expect(await ask(tag, 'gzip')).toMatchObject({ status: 200, text: whole });
  expect(await ask(tag, 'jsondiffpatch', '?of=another')).toMatchObject({ status: 200, text: whole });
  expect(await ask('W/"unknown"')).toMatchObject({ status: 200, text: whole });
  now = rows(100);
  expect(await ask(tag)).toMatchObject({ status: 304, text: '' });
});

it('sends the whole where most of it is other', async () => {
  now = rows(100);
  const { tag } = await ask();
  now = rows(100).map((row) => ({ ...row, name: `Other ${row.id}`, words: 'all of it is something else' }));
  expect(await ask(tag)).toMatchObject({ status: 200, text: JSON.stringify(now) });
});

it('leads from any list to any other', async () => {
  const row = fc.record(
    { id: fc.nat(30), name: fc.string(), more: fc.jsonValue({ maxDepth: 2 }) },
    { requiredKeys: ['id'] },
  );
  // Ids may be there twice: of a page and of an audience, say.
  const list = fc.array(row, { maxLength: 30 });
  // Enough around the lists that what differs is sent, whatever it is.
  const around = 'x'.repeat(20_000);
  let differing = 0;
  await fc.assert(
    fc.asyncProperty(list, list, async (before, after) => {
      now = { around, list: before };
      const { tag, text } = await ask();
      now = JSON.parse(JSON.stringify({ around, list: after }));
      const answer = await ask(tag);
      const had = JSON.parse(text);
      if (answer.status === 226) differing++;
      const read = { 304: () => had, 226: () => patch(had, JSON.parse(answer.text)) }[answer.status];
      expect(read ? read() : JSON.parse(answer.text)).toEqual(now);
    }),
    { numRuns: 400, examples: [[[{ id: 0, more: [{}] }], [{ id: 0, more: [null] }]]] },
  );
  expect(differing).toBeGreaterThan(50);
});
