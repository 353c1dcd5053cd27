import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ItemDraft, ListedCollection, StoredItem } from '../../contract/collections.ts';
import type { StoredDocument } from '../../contract/documents.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { test } from '../../core/conditions/condition.ts';
import type { Node } from '../../core/documents/document.ts';
import { type Answer, type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const collectionNamed = async (name: string): Promise<ListedCollection> => {
  const all: ListedCollection[] = (await studio.get('/api/collections')).body;
  const found = all.find((one) => one.name === name);
  if (!found) throw new Error(`no collection ${name}`);
  return found;
};
const itemsOf = async (id: string): Promise<StoredItem[]> =>
  (await studio.get(`/api/collections/${id}/items`)).body;
const change = async (name: string, part: Partial<ListedCollection>): Promise<Answer> => {
  const { id, items, openToAll, page, ...collection } = await collectionNamed(name);
  return studio.call('PUT', `/api/collections/${id}`, { ...collection, ...part });
};
const fieldOf = (label: string, type: string, rest: object = {}) =>
  ({
    use: 'value',
    attribute: { id: 'new', source: 'item', description: '', label, type, ...rest },
  }) as unknown as ListedCollection['fields'][number];
const draft = (part: Partial<ItemDraft> = {}): ItemDraft => ({
  slug: 'first',
  title: 'The first',
  teaser: '',
  values: {},
  access: null,
  from: null,
  until: null,
  ...part,
});

describe('a collection', () => {
  it('is made with an address of its own, and with no other', async () => {
    const made = await studio.call('POST', '/api/collections', { name: 'Talks', slug: 'talks' });
    expect(made.status).toBe(201);
    expect(await collectionNamed('Talks')).toMatchObject({
      id: made.body.id,
      fields: [],
      access: null,
      items: 0,
      openToAll: 0,
      page: null,
    });
    for (const [slug, message] of [
      ['talks', /“Talks” has the address “talks” already/],
      ['guides', /has the address “guides” already/],
      ['membership', /“Membership” has the address “membership” already/],
      ['search', /is an address of the site itself/],
      ['files', /is an address of the site itself/],
    ] as const) {
      const refused = await studio.call('POST', '/api/collections', { name: 'Again', slug });
      expect([slug, refused.status, refused.body.message]).toEqual([
        slug,
        422,
        expect.stringMatching(message),
      ]);
    }
    for (const slug of ['', 'Talks', 'a--b', '-a', '../x', 'a/b', 'ä', 'x'.repeat(81)])
      expect([slug, (await studio.call('POST', '/api/collections', { name: 'Odd', slug })).status]).toEqual([
        slug,
        400,
      ]);
    expect((await studio.call('POST', '/api/collections', { name: ' ', slug: 'blank' })).status).toBe(400);
    // A page can't take the address of a collection either.
    const page = await studio.call('POST', '/api/documents', { kind: 'page', name: 'Talks', slug: 'talks' });
    expect([page.status, page.body.message]).toEqual([
      422,
      expect.stringContaining('“Talks” has the address'),
    ]);
  });

  it('gets fields with ids of their own, which stay as they are renamed', async () => {
    const seats = fieldOf('seats', 'number');
    const hall = fieldOf('hall', 'choice', {
      ordered: false,
      choices: [{ id: 'dome', label: 'Dome' }],
    });
    expect((await change('Talks', { fields: [seats, hall] })).status).toBe(204);
    const { fields } = await collectionNamed('Talks');
    const ids = fields.map(({ attribute }) => attribute.id);
    expect(new Set(ids).size).toBe(2);
    for (const id of ids) expect(id).toMatch(/^talks-/);
    const renamed = fields.map((field) => ({
      ...field,
      attribute: { ...field.attribute, label: `${field.attribute.label} now` },
    }));
    expect((await change('Talks', { fields: renamed })).status).toBe(204);
    expect((await collectionNamed('Talks')).fields.map(({ attribute }) => attribute.id)).toEqual(ids);
    await change('Talks', { fields });
    // One that comes with the id of another collection’s field gets one of its own.
    const guides = await collectionNamed('Sky guides');
    const [level] = guides.fields;
    if (!level) throw new Error('no field');
    const borrowed = {
      ...level,
      use: 'value' as const,
      attribute: { ...seats.attribute, id: level.attribute.id },
    };
    const added = { ...borrowed, attribute: { ...borrowed.attribute, label: 'borrowed' } };
    expect((await change('Talks', { fields: [...fields, added] })).status).toBe(204);
    expect((await collectionNamed('Talks')).fields.at(-1)?.attribute.id).not.toBe(level.attribute.id);
    await change('Talks', { fields });
  });

  it('refuses fields that can’t be, and stores nothing of them', async () => {
    const { fields } = await collectionNamed('Talks');
    for (const [bad, message] of [
      [fieldOf('Seats ', 'number'), 'There are two fields called'],
      [fieldOf('Title', 'text'), 'Every item has “Title” already'],
      [{ ...fieldOf('cover', 'number'), use: 'picture' }, '“cover” must be text'],
    ] as const) {
      const refused = await change('Talks', { fields: [...fields, bad] as ListedCollection['fields'] });
      expect([refused.status, refused.body.message]).toEqual([422, expect.stringContaining(message)]);
    }
    const ofContacts = { use: 'value', attribute: { ...fields[0]?.attribute, source: 'contact' } };
    expect((await change('Talks', { fields: [ofContacts] as ListedCollection['fields'] })).status).toBe(400);
    expect((await collectionNamed('Talks')).fields).toEqual(fields);
  });

  it('is overwritten by nobody who saw it as it was before', async () => {
    const { revision } = await collectionNamed('Talks');
    expect((await change('Talks', { locked: true })).status).toBe(204);
    const late = await change('Talks', { locked: false, revision });
    expect([late.status, late.body.current]).toMatchObject([409, { name: 'Talks', locked: true }]);
    expect((await collectionNamed('Talks')).locked).toBe(true);
    const elsewhere = { ...(await collectionNamed('Talks')), slug: 'elsewhere' };
    expect((await studio.call('PUT', '/api/collections/none', elsewhere)).status).toBe(404);
    await change('Talks', { locked: false });
  });

  it('keeps a field that anything uses, and says what does', async () => {
    const { id, fields } = await collectionNamed('Talks');
    const [seats, hall] = fields;
    if (!seats || !hall) throw new Error('no fields');
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'At a big talk',
      condition: test(seats.attribute.id, 'at-least', 30),
    });
    const removed = () => change('Talks', { fields: [hall] });
    expect([(await removed()).status, (await removed()).body.message]).toEqual([
      409,
      expect.stringContaining('“At a big talk” uses the field “seats”'),
    ]);
    const asText = { ...seats, attribute: { ...fieldOf('seats', 'text').attribute, id: seats.attribute.id } };
    expect((await change('Talks', { fields: [asText, hall] })).status).toBe(409);
    await studio.call('DELETE', `/api/audiences/${audience.body.id}`);

    // A list uses what it sorts by, what it asks, and what its entries say.
    const made = await studio.call('POST', '/api/documents', {
      kind: 'page',
      name: 'All talks',
      slug: 'all-talks',
    });
    const list = (part: object): Node =>
      ({
        kind: 'list',
        id: 'list',
        collection: id,
        layout: 'rows',
        where: null,
        sort: 'order',
        down: false,
        most: 5,
        empty: '',
        ...part,
      }) as Node;
    const put = async (part: object): Promise<Answer> => {
      const stored: StoredDocument = (await studio.get(`/api/documents/${made.body.id}`)).body;
      return studio.call('PUT', `/api/documents/${made.body.id}`, {
        ...stored,
        content: { ...stored.content, body: [list(part)] },
      });
    };
    const field = seats.attribute.id;
    for (const part of [
      { sort: field },
      { where: test(field, 'at-least', 3) },
      { remarks: { variants: [], otherwise: { words: '', field } } },
      {
        remarks: {
          variants: [{ audience: 'any-member', words: '', field }],
          otherwise: { words: '', field: null },
        },
      },
    ]) {
      expect((await put(part)).status).toBe(200);
      const kept = await removed();
      expect([part, kept.status, kept.body.message]).toEqual([
        part,
        409,
        expect.stringContaining('“All talks” uses the field “seats”'),
      ]);
    }
    expect((await put({})).status).toBe(200);
    const used = await studio.call('DELETE', `/api/collections/${id}`);
    expect([used.status, used.body.message]).toEqual([
      409,
      expect.stringContaining('“All talks” shows this collection'),
    ]);
    await studio.call('DELETE', `/api/documents/${made.body.id}`);
    expect((await removed()).status).toBe(204);
    await change('Talks', { fields });
  });

  it('has one page at most that shows each of its items', async () => {
    const { id } = await collectionNamed('Talks');
    const page = async (name: string) => {
      const made = await studio.call('POST', '/api/documents', {
        kind: 'page',
        name,
        slug: name.toLowerCase(),
      });
      const stored = (await studio.get(`/api/documents/${made.body.id}`)).body;
      return studio.call('PUT', `/api/documents/${made.body.id}`, { ...stored, collection: id });
    };
    const first = await page('Talk');
    expect(first.status).toBe(200);
    expect((await collectionNamed('Talks')).page).toEqual({ id: first.body.id, name: 'Talk' });
    const second = await page('Lecture');
    expect([second.status, second.body.message]).toEqual([
      422,
      expect.stringContaining('“Talk” shows the items of this collection already'),
    ]);
    const nowhere = await studio.call('PUT', `/api/documents/${first.body.id}`, {
      ...(await studio.get(`/api/documents/${first.body.id}`)).body,
      collection: 'nowhere',
    });
    expect(nowhere.status).toBe(404);
    await studio.call('DELETE', `/api/documents/${first.body.id}`);
  });
});

describe('an item', () => {
  it('is stored whole, and refused with the field that is wrong', async () => {
    const { id, fields } = await collectionNamed('Talks');
    const [seats, hall] = fields.map(({ attribute }) => attribute.id);
    if (!seats || !hall) throw new Error('no fields');
    const values = { [seats]: 40, [hall]: 'dome' };
    const made = await studio.call('POST', `/api/collections/${id}/items`, draft({ values }));
    expect([made.status, made.body]).toMatchObject([201, { title: 'The first', values, revision: 1 }]);
    const refusals: [Partial<ItemDraft>, string, string][] = [
      [{}, 'slug', 'has the address “first” already'],
      [{ slug: 'b', values: { gone: 1 } }, 'values.gone', 'there is no such field'],
      [{ slug: 'b', values: { [seats]: 'many' } }, `values.${seats}`, 'seats'],
      [{ slug: 'b', values: { [hall]: 'roof' } }, `values.${hall}`, 'hall is not a value of this attribute'],
      [
        { slug: 'b', from: '2027-01-02T00:00:00Z', until: '2027-01-01T00:00:00Z' },
        'until',
        'it would end before it starts',
      ],
      // 01:00 in the one place is before 00:30 in the other.
      [
        { slug: 'b', from: '2027-01-01T00:30:00Z', until: '2027-01-01T01:00:00+02:00' },
        'until',
        'it would end before it starts',
      ],
    ];
    for (const [part, path, message] of refusals) {
      const refused = await studio.call('POST', `/api/collections/${id}/items`, draft(part));
      expect([refused.status, refused.body.fields?.[0]?.path, refused.body.message]).toEqual([
        422,
        path,
        expect.stringContaining(message),
      ]);
    }
    for (const part of [{ title: ' ' }, { slug: 'Two Words' }, { from: 'tomorrow' }, { access: 3 }])
      expect(
        (await studio.call('POST', `/api/collections/${id}/items`, { ...draft({ slug: 'c' }), ...part }))
          .status,
      ).toBe(400);
    expect(await itemsOf(id)).toHaveLength(1);
    expect((await studio.call('POST', '/api/collections/none/items', draft())).status).toBe(404);
  });

  it('holds one at most of an exclusive group', async () => {
    const choices = ['adult', 'child', 'quiet'].map((label) => ({ id: label, label }));
    const kind = fieldOf('for whom', 'set', {
      choices,
      exclusiveGroups: [{ name: 'age', members: ['adult', 'child'] }],
    });
    const { fields } = await collectionNamed('Talks');
    expect((await change('Talks', { fields: [...fields, kind] })).status).toBe(204);
    const after = await collectionNamed('Talks');
    const own = after.fields.at(-1)?.attribute.id ?? '';
    const store = (held: string[]) =>
      studio.call(
        'POST',
        `/api/collections/${after.id}/items`,
        draft({ slug: held.join('-'), values: { [own]: held } }),
      );
    expect((await store(['adult', 'quiet'])).status).toBe(201);
    const both = await store(['adult', 'child']);
    expect([both.status, both.body.message]).toEqual([
      422,
      expect.stringContaining('“age”, which allows one'),
    ]);
  });

  it('keeps its values through a change of a field, which is refused where it can’t', async () => {
    const { id, fields } = await collectionNamed('Talks');
    const added = await change('Talks', { fields: [...fields, fieldOf('length', 'number')] });
    expect(added.status).toBe(204);
    const [field] = (await collectionNamed('Talks')).fields.slice(-1);
    if (!field) throw new Error('no field');
    const own = field.attribute.id;
    const { body: item } = await studio.call(
      'POST',
      `/api/collections/${id}/items`,
      draft({ slug: 'long', values: { [own]: 2.5 } }),
    );
    const become = (attribute: object) =>
      change('Talks', {
        fields: [...fields, { ...field, attribute: { ...field.attribute, ...attribute } as Attribute }],
      });
    const stored = async () => (await itemsOf(id)).find((one) => one.id === item.id)?.values[own];
    const refused = await become({ whole: true });
    expect([refused.status, refused.body.message]).toEqual([
      422,
      '“The first” has “2.5” as length, which can’t be made one of the new kind. Change the item first.',
    ]);
    expect((await become({ type: 'text' })).status).toBe(204);
    expect(await stored()).toBe('2.5');
    expect((await become({ type: 'number' })).status).toBe(204);
    expect(await stored()).toBe(2.5);
    expect((await become({ type: 'date' })).status).toBe(422);
    expect(await stored()).toBe(2.5);
    await studio.call('DELETE', `/api/items/${item.id}`);
    await change('Talks', { fields });
  });

  it('is overwritten by nobody who saw it as it was before, and gone once deleted', async () => {
    const { id } = await collectionNamed('Talks');
    const [item] = await itemsOf(id);
    if (!item) throw new Error('no item');
    const { collection, position, updatedAt, id: itemId, ...stored } = item;
    const put = (part: object) => studio.call('PUT', `/api/items/${itemId}`, { ...stored, ...part });
    expect((await put({ title: 'Told anew' })).body).toMatchObject({ title: 'Told anew', revision: 2 });
    const late = await put({ title: 'Late' });
    expect([late.status, late.body.current]).toMatchObject([409, { title: 'Told anew', revision: 2 }]);
    const [, other] = await itemsOf(id);
    expect((await put({ slug: other?.slug, revision: 2 })).status).toBe(422);
    expect((await studio.call('DELETE', `/api/items/${itemId}`)).status).toBe(204);
    expect((await studio.call('DELETE', `/api/items/${itemId}`)).status).toBe(404);
    expect((await put({ revision: 2 })).status).toBe(404);
  });

  it('stands where it was put, and no order is taken that is not of all of them', async () => {
    const { id } = await collectionNamed('Talks');
    for (const slug of ['one', 'two', 'three'])
      await studio.call('POST', `/api/collections/${id}/items`, draft({ slug, title: slug }));
    const ids = (await itemsOf(id)).map((item) => item.id);
    const order = (wanted: string[]) => studio.call('PUT', `/api/collections/${id}/order`, { ids: wanted });
    const turned = [...ids].reverse();
    expect((await order(turned)).status).toBe(204);
    expect((await itemsOf(id)).map((item) => item.id)).toEqual(turned);
    const [foreign] = await itemsOf((await collectionNamed('Sky guides')).id);
    for (const bad of [
      ids.slice(1),
      [...ids, foreign?.id ?? ''],
      [...ids.slice(1), ids[1] ?? ''],
      [...ids.slice(1), foreign?.id ?? ''],
    ])
      expect((await order(bad)).status).toBe(409);
    expect((await itemsOf(id)).map((item) => item.id)).toEqual(turned);
  });

  it('is listed for an audience, kept so by an import, and holds on to the audience', async () => {
    const { id } = await collectionNamed('Sky guides');
    const find = async () => (await itemsOf(id)).find(({ slug }) => slug === 'star-chart');
    const item = await find();
    if (!item) throw new Error('the demo has a star chart');
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'Readers of charts',
      condition: test('tier', 'is-one-of', 'dusk'),
    });
    const put = async (listed: unknown) => {
      const { position: _p, collection: _c, updatedAt: _u, ...rest } = (await find()) ?? item;
      return studio.call('PUT', `/api/items/${item.id}`, { ...rest, listed });
    };
    const wanted = { to: 'only', audience: audience.body.id };
    expect((await put(wanted)).body).toMatchObject({ listed: wanted });
    expect((await find())?.listed).toEqual(wanted);
    // A client that does not know of it changes nothing of it.
    expect((await put(undefined)).body).toMatchObject({ listed: wanted });

    const { text } = await studio.get(`/api/collections/${id}/export/json`);
    const imported = await studio.call('POST', `/api/collections/${id}/import`, {
      kind: 'json',
      text: text.replaceAll('Reading a star chart', 'Reading a chart'),
      apply: true,
    });
    expect(imported.body).toMatchObject({ changed: 1 });
    expect(await find()).toMatchObject({ title: 'Reading a chart', listed: wanted });

    const refused = await studio.call('DELETE', `/api/audiences/${audience.body.id}`);
    expect([refused.status, refused.body.message]).toEqual([409, expect.stringContaining('Reading a chart')]);
    expect((await put({ to: 'only', audience: 'never-was' })).status).toBe(422);
    expect((await put({ to: 'nobody', audience: audience.body.id })).status).toBe(400);
    expect((await put(null)).body.listed ?? null).toBe(null);
    expect((await studio.call('DELETE', `/api/audiences/${audience.body.id}`)).status).toBe(204);
  });

  it('goes with its collection', async () => {
    const { id } = await collectionNamed('Talks');
    const [item] = await itemsOf(id);
    expect((await studio.call('DELETE', `/api/collections/${id}`)).status).toBe(204);
    expect((await studio.call('DELETE', `/api/collections/${id}`)).status).toBe(404);
    expect((await studio.get(`/api/collections/${id}/items`)).status).toBe(404);
    expect((await studio.call('DELETE', `/api/items/${item?.id}`)).status).toBe(404);
    // Its fields are no longer there to be asked for.
    const { attributes } = (await studio.get('/api/attributes')).body;
    expect(JSON.stringify(attributes ?? [])).not.toContain('talks-');
  });
});

describe('collections, items and files', () => {
  it('are shut to who is not signed in to the studio', async () => {
    const visitor = instance.visitor();
    for (const [method, path] of [
      ['GET', '/api/collections'],
      ['POST', '/api/collections'],
      ['GET', '/api/collections/guides/items'],
      ['GET', '/api/collections/guides/export/json'],
      ['POST', '/api/collections/guides/import'],
      ['PUT', '/api/items/guide-star-chart'],
      ['DELETE', '/api/items/guide-star-chart'],
      ['GET', '/api/files/demo-star-chart'],
      ['POST', '/api/files?name=a.png'],
      ['GET', '/api/library'],
      ['GET', '/api/settings'],
    ] as const)
      expect([path, (await visitor.call(method, path, method === 'GET' ? undefined : {})).status]).toEqual([
        path,
        401,
      ]);
  });

  it('refuses an import that is no file of items, with the line', async () => {
    const read = (kind: string, text: string) =>
      studio.call('POST', '/api/collections/guides/import', { kind, text, apply: true });
    for (const [kind, text] of [
      ['json', '{'],
      ['json', '{"title":"no array"}'],
      ['csv', ''],
      ['csv', 'name,words\na,b'],
    ] as const) {
      const { status, body } = await read(kind, text);
      expect([kind, text, status === 422 || body.problems?.length > 0]).toEqual([kind, text, true]);
      expect(body.added ?? 0).toBe(0);
    }
    expect((await read('xml', '<a/>')).status).toBe(400);
    const before = await itemsOf('guides');
    const { body } = await read(
      'csv',
      'title,level,minutes to read\nFine,Beginner,3\nBad level,Wizard,3\n,Beginner,3\nBad number,Beginner,three',
    );
    expect(body).toMatchObject({ added: 1, changed: 0 });
    expect(body.problems.map(({ line }: { line: number }) => line)).toEqual([3, 4, 5]);
    expect(await itemsOf('guides')).toHaveLength(before.length + 1);
  });
});
