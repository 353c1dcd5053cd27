import { afterAll, beforeAll, expect, it } from 'vitest';
import { Sessions } from '../../server/store/sessions.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { AccountRow } from '../../server/team/rows.ts';
import { type Instance, startInstance } from './instance.ts';

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

/** What the studio's page says of the session, read as a browser reads it: up to the end of the script element. */
async function said(caller = instance.studio) {
  const { status, text, headers } = await caller.get('/people');
  expect(status).toBe(200);
  expect(headers.get('cache-control')).toBe('private, no-cache');
  const [, json] = /<script type="application\/json" id="session"[^>]*>(.*?)<\/script/is.exec(text) ?? [];
  return json === undefined ? undefined : JSON.parse(json);
}

it('the page says what the API says of the session: to who is signed in, and to who is not', async () => {
  expect(await said()).toEqual((await instance.studio.get('/api/session')).body);
  const visitor = instance.visitor();
  expect(await said(visitor)).toEqual((await visitor.get('/api/session')).body);
  expect((await said(visitor)).account).toBeNull();
});

it('the page says up to which change its server knows, so that the studio follows the changes from there on', async () => {
  const { text, headers } = await instance.studio.get('/people');
  const [, position] = /id="session" data-position="(\d+)"/.exec(text) ?? [];
  const { headers: answered } = await instance.studio.get('/api/session');
  expect(position).toBe(answered.get('x-change-position'));
  expect(headers.get('content-type')).toContain('text/html');
});

it('a name stays a name, whatever is in it', async () => {
  const name = '</script><script>alert(1)</script>$& <!--';
  const [account] = await AccountRow.findAll({ where: {}, limit: 1 });
  const before = account?.name ?? '';
  const rename = (to: string) =>
    inTransaction((transaction) =>
      AccountRow.update({ name: to }, { where: { id: account?.id }, transaction, individualHooks: true }),
    );
  await rename(name);
  const caller = await instance.visitor().signIn();
  expect(await said(caller)).toEqual((await caller.get('/api/session')).body);
  await rename(before);
});

it('without a word of the session the page comes all the same, and soon', async () => {
  const { get } = Sessions.prototype;
  for (const away of [
    (_id: string, told: (error: Error) => void) => told(new Error('the database is away')),
    () => undefined,
  ]) {
    Sessions.prototype.get = away;
    try {
      expect(await said()).toBeUndefined();
    } finally {
      Sessions.prototype.get = get;
    }
  }
});
