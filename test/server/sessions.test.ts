import type { SessionData } from 'express-session';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { signedInAsHeader } from '../../contract/headers.ts';
import { demoAccount, demoColleague, demoSitePassword } from '../../demo/scenario.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
import { noteChange } from '../../server/store/noted-changes.ts';
import { Sessions } from '../../server/store/sessions.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let log: ChangeLog;
let sessions: Sessions;
beforeAll(async () => {
  instance = await startInstance();
  log = await ChangeLog.open(instance.sequelize);
  sessions = new Sessions(instance.sequelize, log);
});
afterAll(async () => {
  sessions.stop();
  await instance.stop();
});

const month = 30 * 24 * 3600 * 1000;
const session = (contactId: number): SessionData =>
  ({ cookie: { expires: new Date(Date.now() + month), originalMaxAge: month }, contactId }) as SessionData;
const stored = (sid: string) =>
  instance.sequelize.query<{ data: string; expires: Date }>(
    'SELECT data, expires FROM sessions WHERE sid = ?',
    {
      replacements: [sid],
      type: QueryTypes.SELECT,
    },
  );
/** As where sessions of somebody, wherever they are, were ended. */
const forget = () => inTransaction(async (transaction) => noteChange(transaction, 'session', null));
const read = (from: Sessions, sid: string) =>
  new Promise<SessionData | null | undefined>((resolve, reject) => {
    from.get(sid, (error, found) => (error ? reject(error) : resolve(found)));
  });
const done = (start: (callback: (error?: unknown) => void) => void) =>
  new Promise<void>((resolve, reject) => {
    start((error) => (error ? reject(error) : resolve()));
  });

describe('sessions', () => {
  it('are in the database, for the next start', async () => {
    await done((callback) => sessions.set('kept-over', session(41), callback));
    const next = new Sessions(instance.sequelize, log);
    expect(await read(next, 'kept-over')).toMatchObject({ contactId: 41 });
    next.stop();
  });

  it('are read once, and the latest that was written is what is read', async () => {
    await done((callback) => sessions.set('once', session(42), callback));
    // What another program does to the table behind its back is not seen, which shows that it is not asked.
    await instance.sequelize.query("UPDATE sessions SET data = '{}' WHERE sid = 'once'");
    expect(await read(sessions, 'once')).toMatchObject({ contactId: 42 });
    await done((callback) => sessions.set('once', session(43), callback));
    expect(await read(sessions, 'once')).toMatchObject({ contactId: 43 });
  });

  it('that end while they are being read stay ended', async () => {
    await done((callback) => sessions.set('raced', session(44), callback));
    await forget();
    const reading = read(sessions, 'raced');
    await done((callback) => sessions.destroy('raced', callback));
    await reading;
    expect(await read(sessions, 'raced')).toBeNull();
    expect(await stored('raced')).toEqual([]);
  });

  it('write their use once an hour, not with every request', async () => {
    await done((callback) => sessions.set('used', session(45), callback));
    await instance.sequelize.query("UPDATE sessions SET expires = '2001-01-01' WHERE sid = 'used'");
    await done((callback) => sessions.touch('used', session(45), callback));
    expect((await stored('used'))[0]?.expires.getFullYear()).toBe(2001);
    // Read anew, nothing is known of when it was written last.
    await forget();
    await read(sessions, 'used');
    await done((callback) => sessions.touch('used', session(45), callback));
    expect((await stored('used'))[0]?.expires.getTime()).toBeGreaterThan(Date.now() + month - 60_000);
  });

  it('that were not used for a month are over, also where they are still kept', async () => {
    const past = { cookie: { expires: new Date(Date.now() - 1000), originalMaxAge: month }, contactId: 46 };
    await done((callback) => sessions.set('over', past as unknown as SessionData, callback));
    await instance.sequelize.query("DELETE FROM sessions WHERE sid = 'over'");
    expect(await read(sessions, 'over')).toBeNull();
  });

  it('of a contact who is gone end, and those of nobody else', async () => {
    await done((callback) => sessions.set('gone', session(4), callback));
    await done((callback) => sessions.set('stays', session(47), callback));
    await inTransaction((transaction) => sessions.endOf(4, transaction));
    expect(await read(sessions, 'gone')).toBeNull();
    expect(await read(sessions, 'stays')).toMatchObject({ contactId: 47 });
  });
});

describe('a visitor who is signed in', () => {
  const greeting = 'The dome is yours tonight, Noor';
  const noor = async (): Promise<Caller> => {
    const visitor = instance.visitor();
    const form = new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword });
    await visitor.call('POST', '/site/sign-in', form);
    return visitor;
  };
  const idOf = async (search: string): Promise<number> =>
    (await instance.studio.get(`/api/contacts?search=${search}`)).body.contacts[0].id;

  it('is signed out at once, with every copy of the cookie', async () => {
    const visitor = await noor();
    const { cookie } = visitor.cookieHeader;
    const copy = () => instance.visitor().call('GET', '/site/', undefined, { cookie });
    expect((await copy()).text).toContain(greeting);
    await visitor.call('POST', '/site/sign-out');
    expect((await copy()).text).not.toContain(greeting);
  });

  it('is nobody with a cookie that somebody else signed, or changed', async () => {
    const visitor = await noor();
    const [, value = ''] = /porch_site=([^;]+)/.exec(visitor.cookieHeader.cookie) ?? [];
    const [sid = '', signature = ''] = decodeURIComponent(value).slice(2).split('.');
    expect(signature).toHaveLength(43);
    const forged = [
      `s:${sid}`,
      `s:${sid}.`,
      `s:${sid}.${signature.slice(1)}A`,
      `s:${sid}x.${signature}`,
      sid,
      `s:.${signature}`,
      's:',
      '%',
    ];
    for (const one of forged)
      for (const cookie of [`porch_site=${encodeURIComponent(one)}`, `porch_site=${one}`]) {
        const answer = await instance.visitor().call('GET', '/site/', undefined, { cookie });
        expect([cookie, answer.status, answer.text.includes(greeting)]).toEqual([cookie, 200, false]);
      }
  });

  it('and becomes one with another contact can sign in as that one', async () => {
    const visitor = await noor();
    expect((await visitor.get('/site/sign-in')).status).toBe(303);
    const [gone, kept] = [await idOf('noor.vale'), await idOf('tobias.orrin')];
    const merged = await instance.studio.call('POST', `/api/contacts/${kept}/merge`, {
      other: gone,
      fromOther: [],
    });
    expect(merged.status).toBe(200);
    expect((await visitor.get('/site/')).text).not.toContain(greeting);
    expect((await visitor.get('/site/sign-in')).status).toBe(200);
  });
});

describe('a window of the studio', () => {
  it('is not answered while another account than its own is signed in', async () => {
    const theo = instance.visitor();
    const credentials = { email: demoColleague.email, password: demoAccount.password };
    expect((await theo.call('POST', '/api/session', credentials)).status).toBe(200);
    const as = (email: string) => ({ [signedInAsHeader]: encodeURIComponent(email) });
    const settings = '/api/settings';
    expect((await theo.call('GET', settings, undefined, as(demoColleague.email))).status).toBe(200);
    for (const email of [demoAccount.email, 'nobody@example.org', '']) {
      const refused = await theo.call('GET', settings, undefined, as(email));
      expect([email, refused.status, refused.body.message]).toEqual([
        email,
        401,
        `${demoColleague.name} is signed in now.`,
      ]);
    }
    // The session itself may still be asked for.
    const session = await theo.call('GET', '/api/session', undefined, as(demoAccount.email));
    expect(session.body.account.email).toBe(demoColleague.email);
  });
});
