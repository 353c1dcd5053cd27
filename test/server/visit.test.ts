import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Condition, test } from '../../core/conditions/condition.ts';
import type { Node } from '../../core/documents/document.ts';
import { words } from '../../core/documents/text.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const heading = (id: string, text: string): Node => ({ kind: 'heading', id, level: 2, content: words(text) });

/** Puts a page live that says which of some audiences the visitor is in. */
async function release(conditions: { [name: string]: Condition }): Promise<void> {
  const body: Node[] = [];
  for (const [name, condition] of Object.entries(conditions)) {
    const { body: audience, status } = await studio.call('POST', '/api/audiences', { name, condition });
    expect(status).toBe(201);
    body.push({
      kind: 'slot',
      id: `s-${name}`,
      name,
      variants: [{ id: `v-${name}`, audience: audience.id, content: [heading(`h-${name}`, `is ${name}.`)] }],
      otherwise: [],
    });
  }
  const page = (await studio.call('POST', '/api/documents', { kind: 'page', name: 'Visit', slug: 'visit' }))
    .body;
  const content = { subject: [], preview: [], body };
  const saved = await studio.call('PUT', `/api/documents/${page.id}`, {
    revision: 1,
    name: 'Visit',
    content,
  });
  expect(saved.status).toBe(200);
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  expect((await studio.call('POST', '/api/releases', { note: '', fingerprint })).status).toBe(201);
}

it('the live site decides by the visit, the moment and what came before', async () => {
  // Nothing is remembered in anybody's browser while no audience asks for it.
  expect((await instance.visitor().get('/site/')).headers.get('set-cookie')).toBeNull();
  const conditions = {
    phone: test('visit-device', 'is-one-of', 'phone'),
    german: test('visit-language', 'prefers', 'de'),
    almanac: test('visit-campaign-source', 'is-one-of', 'almanac'),
    searching: test('visit-came-by', 'is-one-of', 'search'),
    here: test('visit-path', 'matches', '/site/v*'),
    local: test('visit-address', 'in-range', '127.0.0.0/8', '::1'),
    second: test('visit-pages', 'at-least', 2),
    returning: test('visit-returning', 'is-yes'),
    lately: test('moment', 'from', '2026-01-01T00:00'),
    before: test('moment', 'before', '2026-01-01T00:00'),
  };
  await release(conditions);
  const said = async (visitor: Caller, query = '', headers = {}) => {
    const { text } = await visitor.call('GET', `/site/visit${query}`, undefined, headers);
    return Object.keys(conditions).filter((name) => text.includes(`is ${name}.`));
  };
  const always = ['here', 'local', 'lately'];
  const visitor = instance.visitor();
  expect(await said(visitor)).toEqual(always);
  expect(await said(visitor)).toEqual(['here', 'local', 'second', 'lately']);
  const phone = {
    'user-agent':
      'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148 Safari/604.1',
    'accept-language': 'de-AT,en;q=0.5',
    referer: 'https://duckduckgo.com/',
  };
  expect(await said(instance.visitor(), '?utm_source=almanac', phone)).toEqual([
    'phone',
    'german',
    'almanac',
    'searching',
    ...always,
  ]);
  // A bot gets what anybody gets, whatever it says it came by.
  const bot = { ...phone, 'user-agent': 'ExampleBot/1.0 (+https://example.org/bot)' };
  expect(await said(instance.visitor(), '?utm_source=almanac', bot)).toEqual(['lately']);
  const forged = { cookie: `porch_visit=${Buffer.from('{"visits":-4}').toString('base64url')}` };
  expect(await said(instance.visitor(), '', forged)).toEqual(always);
  const record = { visits: 2, pages: 1, began: 0, seen: 0, items: {} };
  const before = { cookie: `porch_visit=${Buffer.from(JSON.stringify(record)).toString('base64url')}` };
  expect(await said(instance.visitor(), '', before)).toEqual(['here', 'local', 'returning', 'lately']);
});
