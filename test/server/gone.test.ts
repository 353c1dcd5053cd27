import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ListedCollection, StoredItem } from '../../contract/collections.ts';
import type { ListedDocument } from '../../contract/documents.ts';
import { type Answer, type Instance, startInstance } from './instance.ts';

// What is made for something that somebody else deletes at the same time is refused where it is made, not at the release.

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

const get = async (path: string) => (await instance.studio.get(`/api/${path}`)).body;
const put = (path: string, body: unknown): Promise<Answer> =>
  instance.studio.call('PUT', `/api/${path}`, body);
const guides = async (): Promise<ListedCollection> =>
  (await get('collections')).find(({ id }: ListedCollection) => id === 'guides');
const changeGuides = async (part: Partial<ListedCollection>): Promise<Answer> => {
  const { id, items: _items, openToAll: _open, page: _page, ...collection } = await guides();
  return put(`collections/${id}`, { ...collection, ...part });
};
const anItem = async (): Promise<StoredItem> => (await get('collections/guides/items'))[0];

describe('what is gone', () => {
  it('can’t be who may open a page, a collection or an item', async () => {
    const page = await get('documents/membership');
    const access = { audience: 'nobody-here', otherwise: 'sign-in' };
    const { id: _id, collection: _of, position: _at, updatedAt: _u, ...item } = await anItem();
    const { revision: _revision, ...draft } = item;
    for (const answer of [
      await put('documents/membership', { ...page, access }),
      await changeGuides({ access: 'nobody-here' }),
      await put(`items/${(await anItem()).id}`, { ...item, access: 'nobody-here' }),
      await instance.studio.call('POST', '/api/collections/guides/items', {
        ...draft,
        slug: 'for-nobody',
        access: 'nobody-here',
      }),
    ])
      expect([answer.status, answer.body.message]).toEqual([
        422,
        'The audience it is for was deleted meanwhile. Choose another.',
      ]);
  });

  it('can’t be who gets an entry of the menu', async () => {
    const settings = await get('settings');
    const entry = {
      page: 'membership',
      variants: [{ audience: 'nobody-here', label: 'Yours' }],
      otherwise: '',
    };
    const answer = await put('settings', { before: settings, settings: { ...settings, menu: [entry] } });
    expect([answer.status, await get('settings')]).toEqual([422, settings]);
  });

  it('can’t be a page that others get, nor can an email or the page of a collection’s items', async () => {
    const settings = await get('settings');
    const documents: ListedDocument[] = await get('documents');
    const email = documents.find(({ kind }) => kind === 'email')?.id;
    const ofItems = documents.find(({ collection }) => collection)?.id;
    const page = await get('documents/membership');
    for (const id of ['no-page', email, ofItems]) {
      const [audience] = await get('audiences');
      const access = { audience: audience.id, otherwise: { page: id } };
      expect((await put('documents/membership', { ...page, access })).status).toBe(422);
      for (const setting of ['notFoundPage', 'afterSignIn'])
        expect(
          (await put('settings', { before: settings, settings: { ...settings, [setting]: id } })).status,
        ).toBe(422);
    }
    expect(await get('settings')).toEqual(settings);
  });
});

describe('a field that is removed', () => {
  it('goes from the items, which can be saved again, and its id comes back to no field', async () => {
    const before = await guides();
    const made = {
      use: 'value',
      attribute: { id: 'x', source: 'item', description: '', label: 'hall', type: 'text' },
    };
    await changeGuides({ fields: [...before.fields, made] as ListedCollection['fields'] });
    const hall = (await guides()).fields.at(-1)?.attribute.id ?? '';
    const { id, collection: _of, position: _at, updatedAt: _u, ...item } = await anItem();
    expect((await put(`items/${id}`, { ...item, values: { ...item.values, [hall]: 'Dome' } })).status).toBe(
      200,
    );
    expect((await changeGuides({ fields: before.fields })).status).toBe(204);
    const { id: _again, collection: _c, position: _p, updatedAt: _uu, ...now } = await anItem();
    expect(now.values).toEqual(item.values);
    expect((await put(`items/${id}`, now)).status).toBe(200);
    await changeGuides({ fields: [...before.fields, made] as ListedCollection['fields'] });
    expect((await guides()).fields.at(-1)?.attribute.id).not.toBe(hall);
    expect((await anItem()).values).toEqual(item.values);
  });

  it('stays with its collection while an audience asks for it', async () => {
    const made = await instance.studio.call('POST', '/api/collections', { name: 'Talks', slug: 'talks' });
    const { revision } = (await get('collections')).find(({ id }: ListedCollection) => id === made.body.id);
    const field = {
      use: 'value',
      attribute: { id: 'x', source: 'item', description: '', label: 'seats', type: 'number' },
    };
    await put(`collections/${made.body.id}`, {
      name: 'Talks',
      slug: 'talks',
      fields: [field],
      access: null,
      locked: false,
      revision,
    });
    const { fields } = (await get('collections')).find(({ id }: ListedCollection) => id === made.body.id);
    const audience = await instance.studio.call('POST', '/api/audiences', {
      name: 'Big talks',
      description: '',
      condition: { kind: 'test', attribute: fields[0].attribute.id, op: 'more-than', values: [10] },
      examples: [],
    });
    expect(audience.status).toBe(201);
    const refused = await instance.studio.call('DELETE', `/api/collections/${made.body.id}`);
    expect([refused.status, refused.body.message]).toEqual([
      409,
      expect.stringContaining('“Big talks” uses the field'),
    ]);
    await instance.studio.call('DELETE', `/api/audiences/${audience.body.id}`);
    expect((await instance.studio.call('DELETE', `/api/collections/${made.body.id}`)).status).toBe(204);
  });
});
