import { monitorEventLoopDelay } from 'node:perf_hooks';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { StoredDocument } from '../../contract/documents.ts';
import type { Pending } from '../../contract/releases.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { Random } from '../../demo/random.ts';
import { type Answer, type Caller, type Instance, startInstance } from '../server/instance.ts';
import { breakOne, hostileWords } from './broken.ts';
import { type Examples, exampleRequests, withoutBody } from './examples.ts';
import { noteRoutes, type Route } from './routes.ts';

/** Everything that some address reads from its query. */
const queries: readonly [string, ...string[]] = [
  'page',
  'search',
  'sort',
  'where',
  'audience',
  'token',
  'to',
  'q',
  'k',
  'key',
  'kind',
  'viewer',
];

/** How many broken bodies each address gets; TRIES=2000 for a long run. */
const tries = Number(process.env.TRIES ?? 16);
const seed = Number(process.env.SEED ?? 1);

let instance: Instance;
let routes: Route[];
let visitor: Caller;
let examples: Examples;
/** Documents and audiences as they were before anything was broken. */
const sound = new Map<
  string,
  Pick<StoredDocument, 'content' | 'access' | 'collection'> & { condition?: Condition }
>();
const delay = monitorEventLoopDelay({ resolution: 5 });
/** The longest delay while an address was tried, in milliseconds. */
const delays = new Map<string, number>();

beforeAll(async () => {
  const noted = noteRoutes();
  instance = await startInstance();
  routes = noted();
  visitor = instance.visitor();
  examples = await exampleRequests(instance);
  for (const audience of await get('/api/audiences')) sound.set(audience.id, audience);
  for (const { id } of await get('/api/documents')) sound.set(id, await get(`/api/documents/${id}`));
  delay.enable();
});
afterAll(async () => {
  delay.disable();
  const longest = [...delays].sort(([, one], [, two]) => two - one).slice(0, 5);
  process.stdout.write(
    `longest delays of the event loop: ${longest.map(([route, ms]) => `${route} ${ms} ms`).join(', ')}\n`,
  );
  await instance.stop();
});

const get = async (path: string) => (await instance.studio.get(path)).body;

/** What is stored of everything that people make, as one number a table. */
async function stored(): Promise<string> {
  const [rows] = await instance.sequelize.query(
    'CHECKSUM TABLE attributes, audiences, audience_versions, facts, documents, collections, items, contacts, contact_changes, settings, releases, files',
  );
  return JSON.stringify(rows);
}

function expectNoFault(answer: Answer, said: string): void {
  if (answer.status >= 500) throw new Error(`${answer.status} for ${said}: ${answer.text.slice(0, 300)}`);
}

describe('whatever an address is sent', () => {
  it('every address with a body has an example here', () => {
    const missing = routes
      .filter(({ method }) => method === 'POST' || method === 'PUT')
      .map(({ method, path }) => `${method} ${path}`)
      .filter((route) => !examples.has(route) && !withoutBody.has(route));
    expect(missing).toEqual([]);
  });

  it('a body with one thing broken is answered, and a refusal stores nothing', {
    timeout: 3_600_000,
  }, async () => {
    const random = new Random(seed);
    let sent = 0;
    for (const [route, example] of examples) {
      const [method = ''] = route.split(' ');
      delay.reset();
      const sound = await example();
      const taken = await instance.studio.call(method, sound.path, sound.body);
      expect([route, taken.status, taken.text]).toEqual([
        route,
        expect.toSatisfy((status) => status < 300),
        taken.text,
      ]);
      for (let trial = 0; trial < tries; trial++) {
        const { path, body } = await example();
        const broken = breakOne(body, random);
        const before = await stored();
        const answer = await instance.studio.call(
          method,
          path,
          broken.body === undefined ? undefined : JSON.stringify(broken.body),
        );
        sent++;
        const said = `${route}: ${broken.said}`;
        expectNoFault(answer, said);
        if (answer.status >= 400) expect(await stored(), said).toBe(before);
      }
      delays.set(route, Math.round(delay.max / 1e6));
      // Whatever was taken leaves the studio and the site as they should be.
      for (const address of ['/api/audiences', '/api/documents', '/api/releases/pending', '/site/'])
        expectNoFault(await instance.studio.get(address), `${address} after ${route}`);
    }
    process.stdout.write(`${sent} broken bodies\n`);
  });

  it('an address with anything in its place, or in its query, is answered', {
    timeout: 600_000,
  }, async () => {
    const random = new Random(seed);
    let sent = 0;
    for (const { method, path } of routes) {
      if (
        !path.startsWith('/api') &&
        !path.startsWith('/site') &&
        !path.startsWith('/embed') &&
        !path.startsWith('/v1')
      )
        continue;
      const caller = path.startsWith('/api') ? instance.studio : visitor;
      if (path === '/api/session') continue;
      const places = path.match(/:\w+|\{:\w+\}/g) ?? [];
      for (const word of hostileWords) {
        const address = places.reduce((whole, place) => whole.replace(place, word), path);
        expectNoFault(await caller.call(method, address), `${method} ${address}`);
        sent++;
      }
      if (method !== 'GET') continue;
      const address = places.reduce((whole, place) => whole.replace(place, 'home'), path);
      for (let trial = 0; trial < tries; trial++) {
        const asked = `${address}?${random.pick(queries)}=${random.pick(hostileWords)}`;
        expectNoFault(await caller.get(asked), `GET ${asked}`);
        sent++;
      }
    }
    process.stdout.write(`${sent} addresses\n`);
  });

  it('what was taken can be written out and brought in again, and is then the same', async () => {
    const collections: { id: string }[] = await get('/api/collections');
    for (const { id } of collections)
      for (const kind of ['csv', 'json']) {
        const { text } = await instance.studio.get(`/api/collections/${id}/export/${kind}`);
        const body = { kind, text, apply: false };
        const answer = await instance.studio.call('POST', `/api/collections/${id}/import`, body);
        expect([id, kind, answer.body]).toEqual([
          id,
          kind,
          expect.objectContaining({ added: 0, changed: 0, problems: [] }),
        ]);
      }
    for (const kind of ['csv', 'json-lines', 'vcard'])
      expectNoFault(await instance.studio.get(`/api/contacts/export?kind=${kind}`), kind);
  });

  it('what was taken can be released, loaded by a server that starts anew, and shown', async () => {
    for (let round = 0; round < 3; round++) await mendProblems();
    const { fingerprint, problems } = await get('/api/releases/pending');
    expect(problems).toEqual([]);
    const answer = await instance.studio.call('POST', '/api/releases', { note: 'All of it', fingerprint });
    expect([answer.status, answer.text]).toEqual([201, answer.text]);
    const again = await startInstance(instance);
    for (const { kind, slug } of await get('/api/documents'))
      if (kind === 'page' && slug !== 'dusk')
        expectNoFault(await again.visitor().get(`/site/${encodeURIComponent(slug)}`), slug);
    await again.app.stop();
  });
});

/** Takes out what keeps the drafts from a release: each of it is told, and can be put right. */
async function mendProblems(): Promise<void> {
  const { problems }: Pending = await get('/api/releases/pending');
  for (const id of new Set(problems.map(({ document }) => document))) {
    const page = await instance.studio.get(`/api/documents/${id}`);
    if (page.status === 200) {
      const { content, access, collection } = sound.get(id) ?? {
        content: { subject: [], preview: [], body: [] },
      };
      const mended = { ...page.body, content, access: access ?? null, collection: collection ?? null };
      const answer = await instance.studio.call('PUT', `/api/documents/${id}`, mended);
      expect([answer.status, answer.text]).toEqual([200, answer.text]);
      continue;
    }
    const audience = (await get('/api/audiences')).find((one: { id: string }) => one.id === id);
    if (!audience) throw new Error(`nothing can be done about ${JSON.stringify(problems)}`);
    const condition = sound.get(id)?.condition ?? { kind: 'any', of: [] };
    const answer = await instance.studio.call('PUT', `/api/audiences/${id}`, { ...audience, condition });
    expect([answer.status, answer.text]).toEqual([200, answer.text]);
  }
}
