import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Document, Node } from '../../core/documents/document.ts';
import { words } from '../../core/documents/text.ts';
import { demoAccount, demoSitePassword } from '../../demo/scenario.ts';
import { CollectionRow, ItemRow } from '../../server/collections/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import {
  type Answer,
  type Caller,
  type Instance,
  impactFrom,
  importFile,
  startInstance,
} from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

// What one line of the server sees to each, which no other test would miss.

const heading = (id: string, text: string): Node => ({ kind: 'heading', id, level: 2, content: words(text) });
const pending = async () => (await studio.get('/api/releases/pending')).body;
const release = async (note: string) =>
  studio.call('POST', '/api/releases', { note, fingerprint: (await pending()).fingerprint });
const impact = () => impactFrom(studio);
const page = async (slug: string, body: Node[], more: Partial<Document> = {}): Promise<string> => {
  const made = await studio.call('POST', '/api/documents', { kind: 'page', name: `Page ${slug}`, slug });
  await change(made.body.id, { content: { subject: [], preview: [], body }, ...more });
  return made.body.id;
};
const change = async (id: string, more: Partial<Document>) => {
  const { body: stored } = await studio.get(`/api/documents/${id}`);
  const answer = await studio.call('PUT', `/api/documents/${id}`, { ...stored, ...more });
  expect(answer.status, answer.text).toBe(200);
};
const messages = async (): Promise<string[]> =>
  (await pending()).problems.map(({ message }: { message: string }) => message);

describe('two records of one person', () => {
  it('that are both examples of an audience are one example once they are joined', async () => {
    await importFile(studio, 'email,First name\nfirst.twin@example.org,Ada\nsecond.twin@example.org,Adah');
    const [first, second] = await Promise.all(
      ['first.twin', 'second.twin'].map(
        async (search): Promise<number> =>
          (await studio.get(`/api/contacts?search=${search}`)).body.contacts[0].id,
      ),
    );
    const condition = { kind: 'test', attribute: 'first-name', op: 'has-value', values: [] };
    const examples = [first, second].map((contact) => ({ contact, name: 'Ada', isIn: true }));
    const made = await studio.call('POST', '/api/audiences', { name: 'Named', condition, examples });
    expect(made.status, made.text).toBe(201);
    await studio.call('POST', `/api/contacts/${first}/merge`, { other: second, fromOther: [] });
    const { body: audiences } = await studio.get('/api/audiences');
    const named = audiences.find(({ id }: { id: string }) => id === made.body.id);
    expect(named.examples.map(({ contact }: { contact: number }) => contact)).toEqual([first]);
  });
});

describe('a closed page', () => {
  it('shows no notice that is itself closed to whoever comes', async () => {
    const notice = await page('closed-notice', [heading('n', 'Lanterns behind the notice')], {
      access: { audience: 'midnight-members', otherwise: 'not-found' },
    });
    await page('closed-page', [heading('p', 'Lanterns behind the page')], {
      access: { audience: 'midnight-members', otherwise: { page: notice } },
    });
    expect(await messages()).toEqual([
      'The page that the others get is gone, or not open to everybody itself',
    ]);
    expect((await release('Two closed pages')).status).toBe(422);
    await change(notice, { access: null });
    expect((await release('A notice that is open')).status).toBe(201);
    const { text } = await instance.visitor().get('/site/closed-page');
    expect(text).toContain('Lanterns behind the notice');
    expect(text).not.toContain('Lanterns behind the page');
    const deleted = await studio.call('DELETE', `/api/documents/${notice}`);
    expect([deleted.status, deleted.body.message]).toEqual([
      409,
      expect.stringContaining('Page closed-page'),
    ]);
  });
});

describe('a form', () => {
  it('sent twice, or with a choice in it twice, keeps each choice once; what is wrong is told by its field', async () => {
    await page('lists-form', [
      {
        kind: 'form',
        id: 'lf',
        fields: [
          { attribute: 'email', label: 'Where to write to', required: false },
          { attribute: 'lists', label: 'Lists', required: false },
        ],
        submit: 'Send',
        next: '',
      },
    ]);
    expect((await release('A form for lists')).status).toBe(201);
    const visitor = instance.visitor();
    const action =
      /action="(\/site\/forms\/[^"]+)"/.exec((await visitor.get('/site/lists-form')).text)?.[1] ?? '';
    const sent = (...values: [string, string][]) => visitor.call('POST', action, new URLSearchParams(values));
    const nameless = await sent(['lists', 'newsletter']);
    expect(nameless.status).toBe(422);
    expect(nameless.text).toContain('Where to write to');
    for (const lists of [['newsletter', 'newsletter'], ['newsletter'], ['school-groups', 'newsletter']]) {
      const answers = lists.map((list): [string, string] => ['lists', list]);
      expect((await sent(['email', 'twice@example.org'], ...answers)).status).toBe(303);
      const { body } = await studio.get('/api/contacts?search=twice%40example.org');
      expect(body.contacts[0].values.lists.toSorted()).toEqual([...new Set(lists)].toSorted());
    }
  });
});

// RFC 6265 and its successor draft: SameSite=None is taken with Secure only, and Lax keeps posts from elsewhere out.
describe('a cookie', () => {
  it('is for the program alone, and goes along from no other site', async () => {
    const visitor = instance.visitor();
    const given: string[] = [];
    const note = ({ headers }: Answer) => given.push(...headers.getSetCookie());
    const home = await visitor.get('/site/');
    note(home);
    const { text } = await visitor.get('/site/survey');
    const action = /action="(\/site\/forms\/[^"]+)"/.exec(text)?.[1] ?? '';
    note(
      await visitor.call('POST', action, new URLSearchParams({ email: 'cookie@example.org', tags: 'moon' })),
    );
    note(
      await visitor.call(
        'POST',
        '/site/sign-in',
        new URLSearchParams({ email: 'ruth.pellow@example.org', password: demoSitePassword }),
      ),
    );
    note(
      await visitor.call('POST', '/api/session', {
        email: demoAccount.email,
        password: demoAccount.password,
      }),
    );
    expect(new Set(given.map((cookie) => cookie.split('=')[0]))).toEqual(
      new Set(['porch_answers', 'porch_position', 'porch_site', 'porch_studio']),
    );
    for (const cookie of given) expect(cookie).toMatch(/; *HttpOnly.*; *SameSite=(Lax|Strict)/i);
  });
});

describe('a release', () => {
  it('counts another name of a page for everybody, and takes off the site what is gone', async () => {
    const id = await page('short-lived', [heading('s', 'Here for one release')]);
    expect((await release('A page more')).status).toBe(201);
    await change(id, { name: 'Short-lived page' });
    const { documents, total } = await impact();
    expect(documents.filter((one) => one.id === id)).toMatchObject([{ contacts: total }]);
    expect((await release('Another name')).status).toBe(201);
    expect((await studio.call('DELETE', `/api/documents/${id}`)).status).toBe(204);
    expect((await pending()).changes).toMatchObject([{ id, change: 'removed' }]);
    expect((await release('A page less')).status).toBe(201);
    expect((await instance.visitor().get('/site/short-lived')).status).toBe(404);
  });

  it('counts words that differ within a line', async () => {
    const differing = (otherwise: string): Node => ({
      kind: 'heading',
      id: 'w',
      level: 2,
      content: [
        {
          type: 'alternatives',
          attrs: {
            id: 'aw',
            name: 'Greeting',
            variants: [{ id: 'vw', audience: 'midnight-members', words: 'Welcome back' }],
            otherwise,
          },
        },
      ],
    });
    const id = await page('words', [differing('Good evening')]);
    expect((await release('Words')).status).toBe(201);
    await change(id, { content: { subject: [], preview: [], body: [differing('Good night')] } });
    const midnight = (
      await studio.call('POST', '/api/audiences/count', {
        condition: { kind: 'audience', audience: 'midnight-members' },
        audience: null,
      })
    ).body.count;
    const { documents, total } = await impact();
    expect(documents.find((one) => one.id === id)).toMatchObject({
      contacts: total - midnight,
      anonymous: true,
    });
    expect((await release('Other words')).status).toBe(201);
  });

  it('is refused with a form that fills what is none of a contact’s, in words', async () => {
    const id = await page('wrong-form', [
      {
        kind: 'form',
        id: 'wf',
        fields: [{ attribute: 'visit-device', label: '', required: false }],
        submit: 'Send',
        next: '',
      },
    ]);
    expect(await messages()).toEqual([expect.stringContaining('form')]);
    expect((await release('A wrong form')).status).toBe(422);
    expect((await studio.call('DELETE', `/api/documents/${id}`)).status).toBe(204);
  });

  it('is refused with a collection or an item for an audience that is gone', async () => {
    const [collection] = (await studio.get('/api/collections')).body;
    const [item] = (await studio.get(`/api/collections/${collection.id}/items`)).body;
    // Where one is chosen it has to be there, and one that is chosen can't be deleted: it is gone by another way.
    for (const [path, of, open] of [
      [
        '/api/collections',
        collection,
        (access: string | null) =>
          inTransaction((transaction) =>
            CollectionRow.update({ access }, { where: { id: collection.id }, transaction }),
          ),
      ],
      [
        '/api/items',
        item,
        (access: string | null) =>
          inTransaction((transaction) => ItemRow.update({ access }, { where: { id: item.id }, transaction })),
      ],
    ] as const) {
      const refused = await studio.call('PUT', `${path}/${of.id}`, { ...of, access: 'no-such-audience' });
      expect(refused.status).toBe(422);
      await open('no-such-audience');
      expect(await messages()).toEqual(['It is open to an audience that was deleted']);
      expect((await release('Closed to nobody')).status).toBe(422);
      await open(of.access);
      expect(await messages()).toEqual([]);
    }
  });

  it('that was gone back to is still the one on the site after a start', async () => {
    const id = await page('before-and-after', [heading('b', 'As it was before')]);
    const first = (await release('Before')).body.id;
    await change(id, { content: { subject: [], preview: [], body: [heading('b', 'As it is after')] } });
    expect((await release('After')).status).toBe(201);
    expect((await studio.call('POST', `/api/releases/${first}/live`)).status).toBeLessThan(300);
    // Last of all: what belongs to the database is the other instance's from here on.
    const beside = await startInstance(instance);
    for (const one of [instance, beside])
      expect((await one.visitor().get('/site/before-and-after')).text).toContain('As it was before');
    await beside.stop();
  });
});
