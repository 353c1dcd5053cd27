import { afterAll, beforeAll, expect, it } from 'vitest';
import type { StoredItem } from '../../contract/collections.ts';
import { test } from '../../core/conditions/condition.ts';
import { type Caller, type Instance, impactFrom, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const impact = () => impactFrom(studio);
const count = async (condition: unknown): Promise<number> =>
  (await studio.call('POST', '/api/audiences/count', { condition, audience: null })).body.count;

it('says whom a release changes what for, as it then does', async () => {
  expect(await impact()).toEqual({ total: 2400, itemsLeft: 0, documents: [] });
  const audience = (await studio.get('/api/audiences')).body.find(
    ({ id }: { id: string }) => id === 'midnight-members',
  );
  const { name, description, revision } = audience;
  const condition = test('tier', 'at-least', 'twilight');
  await studio.call('PUT', '/api/audiences/midnight-members', { name, description, condition, revision });
  const twilight = await count(test('tier', 'is-one-of', 'twilight'));
  const { documents } = await impact();
  const home = documents.find(({ id }) => id === 'home');
  // Everybody of the middle tier now gets what was for the highest, and nobody else sees anything new.
  expect(home).toMatchObject({ contacts: twilight, anonymous: false, complete: true });
  expect(home?.changes.every(({ before, after }) => before?.[0] === 1 && after?.[0] === 0)).toBe(true);
  expect(home?.changes[0]?.person?.values.tier).toBe('twilight');
  expect(home?.slots.after[0]).toMatchObject({
    name: 'Welcome banner',
    audiences: expect.arrayContaining(['Midnight members']),
  });
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  await studio.call('POST', '/api/releases', { note: '', fingerprint });
  expect((await impact()).documents).toEqual([]);
});

it('counts who may open a page no longer, and who may again', async () => {
  const revised = (await studio.get('/api/documents/home')).body;
  const access = { audience: 'midnight-members', otherwise: 'sign-in' };
  const closed = await studio.call('PUT', '/api/documents/home', { ...revised, access });
  expect(closed.status).toBe(200);
  const others = 2400 - (await count({ kind: 'audience', audience: 'midnight-members' }));
  const [home, ...more] = (await impact()).documents;
  expect(more).toEqual([]);
  expect(home).toMatchObject({ id: 'home', contacts: others, anonymous: true });
  expect(new Set(home?.changes.map(({ opening }) => opening))).toEqual(new Set(['lost']));
  await studio.call('PUT', '/api/documents/home', { ...revised, ...closed.body, access: null });
  expect((await impact()).documents).toEqual([]);
});

it('counts who may open an item no longer, and who may from then on, by what its own fields ask', async () => {
  const items: StoredItem[] = (await studio.get('/api/collections/guides/items')).body;
  const dome = items.find(({ slug }) => slug === 'dome-by-yourself');
  if (!dome) throw new Error('no such guide');
  const { id, ...draft } = dome;
  const change = (values: object) =>
    studio.call('PUT', `/api/items/${id}`, { ...draft, values: { ...draft.values, ...values } });
  // It was for the highest tier alone.
  expect((await change({ 'guides-tiers': ['twilight', 'midnight'] })).status).toBe(200);
  const twilight = await count({
    kind: 'all',
    of: [test('tier', 'is-one-of', 'twilight'), test('signed-in', 'is-yes')],
  });
  const found = await impact();
  expect(found.itemsLeft).toBe(0);
  const changed = found.documents.filter(({ kind }) => kind === 'item');
  expect(changed).toMatchObject([{ id, name: 'The dome by yourself', anonymous: false, complete: true }]);
  const [guide] = changed;
  const by = (opening: string | undefined) =>
    guide?.changes.filter((one) => one.opening === opening).reduce((sum, { contacts }) => sum + contacts, 0);
  expect(by('gained')).toBe(twilight);
  expect(by('lost')).toBe(0);
  expect(twilight).toBeGreaterThan(100);
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  await studio.call('POST', '/api/releases', { note: '', fingerprint });
  expect((await impact()).documents).toEqual([]);
});

it('counts conditions as they are, and nobody for one with a problem', async () => {
  const conditions = [test('tier', 'has-no-value'), test('gone', 'has-value'), { kind: 'all', of: [] }];
  const { status, body } = await studio.call('POST', '/api/audiences/counts', { conditions });
  expect(status).toBe(200);
  expect(body.total).toBe(2400);
  expect(body.counts).toEqual([await count(conditions[0]), 0, 2400]);
  expect((await studio.call('POST', '/api/audiences/counts', { conditions: 'all' })).status).toBe(400);
});

it('tells a word of the menu of the menu alone, and what going back to before it would change', async () => {
  const before: number = (await studio.get('/api/releases')).body[0].id;
  const settings = (await studio.get('/api/settings')).body;
  const menu = [
    { page: 'membership', variants: [{ audience: 'dusk-members', label: 'Your evenings' }], otherwise: '' },
    ...settings.menu.slice(1),
  ];
  await studio.call('PUT', '/api/settings', { before: settings, settings: { ...settings, menu } });
  const dusk = await count({ kind: 'audience', audience: 'dusk-members' });
  const { documents } = await impact();
  expect(documents).toMatchObject([{ kind: 'menu', contacts: dusk, anonymous: false }]);
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  expect((await studio.call('POST', '/api/releases', { note: '', fingerprint })).status).toBe(201);
  const back = await impactFrom(studio, before);
  const ofMenu = back.documents.find(({ kind }) => kind === 'menu');
  expect(ofMenu).toMatchObject({ contacts: dusk, anonymous: false });
  expect((await studio.get('/api/releases/999/impact')).status).toBe(404);
});

it('is worked out once for all who ask, and anew after somebody changed', async () => {
  const { name, description, revision } = (await studio.get('/api/audiences')).body.find(
    ({ id }: { id: string }) => id === 'midnight-members',
  );
  const condition = test('tier', 'is-one-of', 'dusk');
  await studio.call('PUT', '/api/audiences/midnight-members', { name, description, condition, revision });
  const jobs = async () =>
    (await studio.get('/api/jobs')).body.filter(({ title }: { title: string }) =>
      title.startsWith('Work out who a release affects'),
    ).length;
  const before = await jobs();
  const [one, two] = await Promise.all([impactFrom(studio), impactFrom(studio)]);
  expect(two).toEqual(one);
  expect(await impactFrom(studio)).toEqual(one);
  expect(await jobs()).toBe(before + 1);

  const values = { tier: 'dusk' };
  const email = 'one.more@example.org';
  expect((await studio.call('POST', '/api/contacts', { email, values })).status).toBe(201);
  const after = await impactFrom(studio);
  expect(await jobs()).toBe(before + 2);
  expect(after.total).toBe(one.total + 1);
});
