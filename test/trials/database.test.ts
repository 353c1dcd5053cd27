import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { keepDatabase } from '../../scripts/database.mjs';
import { type Instance, importThat, startInstance, uploadFile } from '../server/instance.ts';
import { noteRoutes, type Route } from './routes.ts';

// The database is killed under load, as by a machine that runs out of memory, and started again by what keeps it.

let folder: string;
let database: Awaited<ReturnType<typeof keepDatabase>>;
let instance: Instance;
let routes: Route[];
const server = process.env.TEST_DATABASE_SERVER;
const unhandled: unknown[] = [];
const onUnhandled = (error: unknown) => unhandled.push(error);

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'apple-porch-killed-'));
  database = await keepDatabase(folder);
  process.env.TEST_DATABASE_SERVER = database.url('').slice(0, -1);
  process.on('unhandledRejection', onUnhandled);
  process.env.LOG_LEVEL = 'error';
  const noted = noteRoutes();
  instance = await startInstance();
  routes = noted().filter(
    ({ method, path }) => method === 'GET' && /^\/(api|site|v1|embed|health)/.test(path),
  );
});
afterAll(async () => {
  await instance.stop();
  await database.stop();
  process.env.TEST_DATABASE_SERVER = server;
  process.off('unhandledRejection', onUnhandled);
  delete process.env.LOG_LEVEL;
  rmSync(folder, { recursive: true, force: true });
});

function killDatabase(): void {
  process.kill(Number(readFileSync(join(folder, 'database.pid'), 'utf8')), 'SIGKILL');
}

/** Asks every address for something once. */
async function askAll(): Promise<string[]> {
  const visitor = instance.visitor();
  return Promise.all(
    routes.map(async ({ path }) => {
      const address = path.replace(/\{?:(\w+)\}?/g, (_, name) => (name === 'id' ? '1' : 'home'));
      const answer = await (path.startsWith('/api') ? instance.studio : visitor).get(address);
      return `${answer.status} ${address}`;
    }),
  );
}

/** An answer that says how far the work is, which the next one has the result of, is as good as that. */
function done(answer: string): string {
  return answer.replace(/^202 (?=.*\/impact$)/, '200 ');
}

async function whenBack(): Promise<void> {
  for (let tries = 0; tries < 600; tries++) {
    if ((await instance.visitor().get('/health')).status === 200) return;
    await wait(50);
  }
  throw new Error('the database never came back');
}

describe('the database killed', () => {
  it('under load of every address leaves a server that says so, and goes on when it is back', async () => {
    const before = (await askAll()).sort();
    expect(before.filter((answer) => /^5/.test(answer))).toEqual([]);
    for (let round = 0; round < 3; round++) {
      const answers = askAll();
      killDatabase();
      const during = [...(await answers), ...(await askAll())];
      // Nothing but an answer that says what it is, for those that need the database.
      expect(during.filter((answer) => /^5/.test(answer) && !answer.startsWith('503'))).toEqual([]);
      await whenBack();
      expect((await askAll()).map(done).sort()).toEqual(before.map(done).sort());
    }
    expect(unhandled).toEqual([]);
  });

  it('in the middle of an import stores nothing of it, and it is done once the database is back', async () => {
    const rows = Array.from({ length: 60_000 }, (_, index) => `p${index}@example.org,Town ${index}`);
    const uploaded = await uploadFile(instance.studio, `Email,City\n${rows.join('\n')}\n`);
    const read = await importThat(instance.studio, uploaded.body.id, 'read');
    await instance.studio.call('PUT', `/api/imports/${read.id}/plan`, read.plan);
    await importThat(instance.studio, read.id, 'checked');
    const { total } = (await instance.studio.get('/api/contacts')).body;
    await instance.studio.call('POST', `/api/imports/${read.id}/run`);
    await wait(300);
    killDatabase();
    await whenBack();
    const done = await importThat(instance.studio, read.id, 'imported', 'checked');
    expect(done.status).toBe('imported');
    expect((await instance.studio.get('/api/contacts')).body.total).toBe(total + rows.length);
    expect(unhandled).toEqual([]);
  });

  it('keeps nothing that failed: the API of decisions answers again', async () => {
    const made = await instance.studio.call('POST', '/api/api-keys', {
      name: 'x',
      origins: [],
      isSecret: true,
    });
    const slot = (await instance.studio.get('/api/embedding')).body.slots[0].key;
    const decide = () =>
      instance.visitor().call('POST', '/v1/decide', { key: made.body.key, slots: [slot], person: null });
    killDatabase();
    await decide();
    await whenBack();
    expect((await decide()).status).toBe(200);
  });
});
