import { setTimeout as delay } from 'node:timers/promises';
import { parse as parseWithSecondReader } from 'csv-parse/sync';
import ICAL from 'ical.js';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { test } from '../../core/conditions/condition.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Caller, type Instance, importFile, importThat, sendEmail, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const read = async (id: number) => (await studio.get(`/api/contacts/${id}`)).body;
const change = async (id: number, body: object) =>
  studio.call('PUT', `/api/contacts/${id}`, { updatedAt: (await read(id)).updatedAt, ...body });

describe('adding somebody by hand', () => {
  const add = (body: object) => studio.call('POST', '/api/contacts', body);

  it('makes a contact with its values, counted at once, and says who added it', async () => {
    const total = async () => (await studio.get('/api/contacts')).body.total;
    const before = await total();
    const made = await add({
      email: ' Hanna.Weir@example.org ',
      values: { 'first-name': 'Hanna', 'last-name': 'Weir', tier: 'dusk', tags: ['moon'], plan: null },
    });
    expect([made.status, made.body]).toMatchObject([
      201,
      { email: 'Hanna.Weir@example.org', name: 'Hanna Weir', values: { tier: 'dusk', tags: ['moon'] } },
    ]);
    expect(made.body.values).not.toHaveProperty('plan');
    expect(await total()).toBe(before + 1);
    const [entry] = (await studio.get(`/api/contacts/${made.body.id}/history`)).body;
    expect(entry).toMatchObject({ kind: 'added', source: 'person', by: 'Maya Brook' });
    const again = await add({ email: 'hanna.weir@EXAMPLE.org' });
    expect([again.status, again.body.current, again.body.message]).toEqual([
      409,
      { id: made.body.id },
      '“Hanna.Weir@example.org” is the address of Hanna Weir already.',
    ]);
  });

  it('refuses what is no address and what is no value, and stores nothing', async () => {
    const total = async () => (await studio.get('/api/contacts')).body.total;
    const before = await total();
    for (const [body, status] of [
      [{ email: '' }, 400],
      [{ email: 'nobody' }, 422],
      [{ email: 'a@example.org, b@example.org' }, 422],
      [{ email: `${'a'.repeat(260)}@example.org` }, 400],
      [{ email: 'fine@example.org', values: { tier: 'dawn' } }, 422],
      [{ email: 'fine@example.org', values: { never: 'was' } }, 422],
      [{ email: 'fine@example.org', values: { email: 'other@example.org' } }, 422],
    ] as const)
      expect([body, (await add(body)).status]).toEqual([body, status]);
    expect(await total()).toBe(before);
  });
});

describe('editing a contact', () => {
  it('stores values, counts them at once, and writes down who changed what', async () => {
    const midnight = { condition: test('tier', 'is-one-of', 'midnight'), audience: null };
    const before = (await studio.call('POST', '/api/audiences/count', midnight)).body.count;
    const answer = await change(1, { values: { tier: 'midnight', plan: null, tags: ['moon', 'family'] } });
    expect(answer.status).toBe(200);
    expect(answer.body.values).toMatchObject({ tier: 'midnight', tags: ['moon', 'family'] });
    expect(answer.body.values).not.toHaveProperty('plan');
    expect((await studio.call('POST', '/api/audiences/count', midnight)).body.count).toBe(before + 1);
    const { body: history } = await studio.get('/api/contacts/1/history');
    expect(history).toHaveLength(1);
    expect(history[0]).toMatchObject({
      kind: 'changed',
      source: 'person',
      by: 'Maya Brook',
      fields: {
        tier: ['twilight', 'midnight'],
        plan: ['almanac-print', null],
        tags: [null, ['moon', 'family']],
      },
    });
    await change(1, { values: { tier: 'midnight', tags: ['family', 'moon'] } });
    expect((await studio.get('/api/contacts/1/history')).body).toHaveLength(1);
  });

  it('says no to mail for a contact, and that it was said', async () => {
    expect((await change(2, { mail: false })).body.unsubscribedAt).not.toBeNull();
    expect((await change(2, { mail: true })).body.unsubscribedAt).toBeNull();
    const { body } = await studio.get('/api/contacts/2/history');
    expect(body.map(({ fields }: { fields: object }) => fields)).toEqual([
      { '@mail': [false, true] },
      { '@mail': [true, false] },
    ]);
  });

  it.each([
    ['an unknown attribute', { shoe: 'x' }, 'values.shoe'],
    ['a built-in fact of the visit', { 'visit-device': 'phone' }, 'values.visit-device'],
    ['the address', { email: 'x@example.org' }, 'values.email'],
    ['a value of another type', { visits: 'many' }, 'values.visits'],
    ['a choice that does not exist', { tier: 'dawn' }, 'values.tier'],
    ['a set with a member that does not exist', { tags: ['moon', 'mars'] }, 'values.tags'],
    ['two of an exclusive group', { tags: ['moon', 'sun'] }, 'values.tags'],
    ['a date out of the calendar', { joined: '2025-02-30' }, 'values.joined'],
    ['a text that is too long', { city: 'x'.repeat(3000) }, 'values.city'],
  ])('refuses %s with its path', async (_what, values, path) => {
    const before = await read(3);
    const answer = await change(3, { values });
    expect(answer.status).toBe(422);
    expect(answer.body.fields[0].path).toBe(path);
    expect(await read(3)).toEqual(before);
  });

  it('never overwrites what somebody else stored meanwhile', async () => {
    const { updatedAt } = await read(4);
    expect((await change(4, { values: { city: 'Tarnley' } })).status).toBe(200);
    const late = await studio.call('PUT', '/api/contacts/4', { values: { city: 'Ashwold' }, updatedAt });
    expect(late.status).toBe(409);
    expect((await read(4)).values.city).toBe('Tarnley');
  });
});

describe('what a contact sees', () => {
  it('is what the live site shows: the same variants as deciding the page', async () => {
    const { body: sees } = await studio.get('/api/contacts/1/sees');
    expect(sees.map(({ document }: { document: string }) => document)).toContain('home');
    const home = sees.find(({ document }: { document: string }) => document === 'home');
    const visitor = instance.visitor();
    await visitor.call(
      'POST',
      '/site/sign-in',
      new URLSearchParams({ email: 'ines.marlow@example.org', password: demoSitePassword }),
    );
    const page = (await visitor.get('/site/')).text;
    for (const { words } of home.slots)
      if (words) expect(page).toContain(words.replace(/ ….*$/, '').slice(0, 12));
    expect((await studio.get('/api/contacts/99999/sees')).status).toBe(404);
  });
});

describe('two records of one person', () => {
  it('become one: chosen values, history, mail and account; the other is gone', async () => {
    const text =
      'id,email,First name,City\nX9,twin.one@example.org,Ada,Tarnley\n,twin.two@example.org,Adah,Ashwold';
    await importFile(studio, text);
    const idOf = async (search: string) =>
      (await studio.get(`/api/contacts?search=${search}`)).body.contacts[0].id;
    const [one, two] = [await idOf('twin.one'), await idOf('twin.two')];
    await change(one, { mail: false });
    const { body: list } = await studio.get('/api/audiences');
    const { name, description, condition, revision, id: audience } = list[1];
    const examples = [{ contact: one, name: 'Ada', isIn: true }];
    await studio.call('PUT', `/api/audiences/${audience}`, {
      name,
      description,
      condition,
      revision,
      examples,
    });
    const merged = await studio.call('POST', `/api/contacts/${two}/merge`, {
      other: one,
      fromOther: ['city', 'tier'],
    });
    expect(merged.body).toMatchObject({
      email: 'twin.two@example.org',
      externalId: 'X9',
      values: { 'first-name': 'Adah', city: 'Tarnley' },
    });
    expect(merged.body.unsubscribedAt).not.toBeNull();
    const { body: audiences } = await studio.get('/api/audiences');
    expect(audiences[1].examples).toEqual([{ contact: two, name: 'Adah', isIn: true }]);
    expect((await studio.get(`/api/contacts/${one}`)).status).toBe(404);
    const { body: history } = await studio.get(`/api/contacts/${two}/history`);
    expect(history.map(({ kind }: { kind: string }) => kind)).toEqual([
      'merged',
      'changed',
      'added',
      'added',
    ]);
    expect((await studio.get('/api/contacts?search=twin')).body.matching).toBe(1);
    expect(
      (await studio.call('POST', `/api/contacts/${two}/merge`, { other: two, fromOther: [] })).status,
    ).toBe(422);
  });
});

describe('erasing a contact', () => {
  it('leaves nothing personal anywhere, and says what went', async () => {
    const { id: importId } = await importFile(
      studio,
      'email,First name\ngone.soon@example.org,Vanessa\nbad,Vanessa',
    );
    const { id } = (await studio.get('/api/contacts?search=gone.soon')).body.contacts[0];
    await change(id, { values: { city: 'Tarnley' } });
    await sendEmail(studio, { contacts: [id] });
    const { body: list } = await studio.get('/api/audiences');
    const [pinned] = list;
    const stays = { contact: null, name: 'An anonymous visitor', isIn: false };
    await studio.call('PUT', `/api/audiences/${pinned.id}`, {
      name: pinned.name,
      description: pinned.description,
      condition: pinned.condition,
      revision: pinned.revision,
      examples: [{ contact: id, name: 'Vanessa', isIn: true }, stays],
    });
    const visitor = instance.visitor();
    const erased = await studio.call('DELETE', `/api/contacts/${id}`);
    expect(erased.status).toBe(200);
    expect(erased.body).toMatchObject({ changes: 2, messages: 1, deliveries: 1, account: false, files: 2 });
    expect((await studio.get(`/api/contacts/${id}`)).status).toBe(404);
    const tables = await instance.sequelize.query<{ name: string; column: string }>(
      `SELECT TABLE_NAME AS name, COLUMN_NAME AS \`column\` FROM information_schema.COLUMNS
       WHERE TABLE_SCHEMA = DATABASE() AND DATA_TYPE IN ('varchar', 'text', 'longtext', 'mediumblob')`,
      { type: QueryTypes.SELECT },
    );
    expect(tables.length).toBeGreaterThan(20);
    for (const { name, column } of tables) {
      const [found] = await instance.sequelize.query<{ rows: number }>(
        `SELECT COUNT(*) AS \`rows\` FROM \`${name}\` WHERE \`${column}\` LIKE '%gone.soon%' OR \`${column}\` LIKE '%Vanessa%'`,
        { type: QueryTypes.SELECT },
      );
      expect([name, column, Number(found?.rows)]).toEqual([name, column, 0]);
    }
    const { body: after } = await studio.get('/api/audiences');
    expect(after.find((one: { id: string }) => one.id === pinned.id).examples).toEqual([stays]);
    expect((await studio.get(`/api/imports/${importId}/left-out.csv`)).status).toBe(404);
    expect((await importThat(studio, importId, 'imported')).report?.samples.added).toEqual([]);
    expect((await visitor.get('/site/')).status).toBe(200);
  });
});

describe('export', () => {
  it('writes everybody, an audience or a filter, as the import reads it back unchanged', async () => {
    const { body: page } = await studio.get('/api/contacts');
    const everybody = await studio.get('/api/contacts/export?kind=csv');
    expect(everybody.headers.get('content-disposition')).toContain('people.csv');
    const rows: string[][] = parseWithSecondReader(everybody.text, { bom: true });
    expect(rows).toHaveLength(page.total + 1);
    const again = await importFile(studio, everybody.text);
    expect(again.report).toMatchObject({ added: 0, changed: 0, unchanged: page.total, rejected: 0 });
    const lines = await studio.get('/api/contacts/export?kind=json-lines&audience=midnight-members');
    const { body: listed } = await studio.get('/api/contacts?audience=midnight-members');
    expect(lines.text.trim().split('\n')).toHaveLength(listed.matching);
    const where = encodeURIComponent(JSON.stringify(test('city', 'is-one-of', 'Nowhere')));
    expect((await studio.get(`/api/contacts/export?kind=json-lines&where=${where}`)).text).toBe('');
    const cards = await studio.get('/api/contacts/export?kind=vcard&audience=midnight-members');
    const parsed = ICAL.parse(cards.text) as unknown as unknown[];
    expect(parsed).toHaveLength(listed.matching);
  });

  it('is made in the background as well, for whoever is listed, until somebody in it is erased', async () => {
    const query = { kind: 'csv', audience: 'midnight-members' };
    const begun = await studio.call('POST', '/api/contacts/exports', query);
    expect(begun.status).toBe(202);
    const find = async () =>
      (await studio.get('/api/jobs')).body.find(({ id }: { id: number }) => id === begun.body.job);
    while (!['done', 'failed'].includes((await find()).status)) await delay(30);
    const { body: listed } = await studio.get('/api/contacts?audience=midnight-members');
    expect(await find()).toMatchObject({
      status: 'done',
      title: `Export ${listed.matching} people`,
      file: `/contacts/exports/${begun.body.job}/people.csv`,
    });
    const file = await studio.get(`/api/contacts/exports/${begun.body.job}/people.csv`);
    expect(file.headers.get('content-disposition')).toContain('people.csv');
    expect(file.text).toBe((await studio.get(`/api/contacts/export?${new URLSearchParams(query)}`)).text);
    const stranger = await fetch(`${studio.address}/api/contacts/exports/${begun.body.job}/people.csv`);
    expect(stranger.status).toBe(401);
    expect((await studio.get('/api/contacts/exports/999999/people.csv')).status).toBe(404);
    const email = 'not.for.long@example.org';
    const { id } = (await studio.call('POST', '/api/contacts', { email, values: {} })).body;
    await studio.call('DELETE', `/api/contacts/${id}`);
    expect((await studio.get(`/api/contacts/exports/${begun.body.job}/people.csv`)).status).toBe(404);
  });

  it('in the background is refused like any other where its filter can’t be applied', async () => {
    const where = JSON.stringify(test('gone', 'is-one-of', 'x'));
    const refused = await studio.call('POST', '/api/contacts/exports', { kind: 'csv', where });
    expect(refused.status).toBe(400);
    expect((await studio.call('POST', '/api/contacts/exports', { kind: 'pdf' })).status).toBe(400);
  });

  it('is refused for a filter that can’t be applied', async () => {
    const where = encodeURIComponent(JSON.stringify(test('gone', 'is-yes')));
    expect((await studio.get(`/api/contacts/export?kind=csv&where=${where}`)).status).toBe(400);
    expect((await studio.get('/api/contacts/export?kind=pdf')).status).toBe(400);
  });
});
