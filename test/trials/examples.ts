import { type Instance, importFile } from '../server/instance.ts';

/** A request that an address takes, made from what the instance holds at that moment. */
export interface Example {
  readonly path: string;
  readonly body: unknown;
}
export type Examples = ReadonlyMap<string, () => Promise<Example>>;

/** Addresses that take no body, or a file. */
export const withoutBody: ReadonlySet<string> = new Set([
  // Refused wherever there is an account; test/server/first-start.test.ts breaks its bodies.
  'POST /api/session/first',
  'POST /api/imports',
  'POST /api/imports/:id/again',
  'POST /api/imports/:id/run',
  'POST /api/imports/:id/cancel',
  'POST /api/imports/:id/undo',
  'POST /api/crm/sync',
  'POST /api/crm/cancel',
  'POST /api/jobs/:id/stop',
  'POST /api/jobs/:id/again',
  'POST /api/documents/:id/duplicate',
  'POST /api/documents/:id/here',
  'POST /api/files',
  'POST /api/releases/:id/live',
  'POST /site/sign-out',
  'POST /site/sign-in',
  'POST /site/unsubscribe',
  'POST /site/forms/:document/:block',
]);

/** For each address with a body, by method and path as its router has it, a request that it takes. */
export async function exampleRequests({ studio }: Instance): Promise<Examples> {
  const get = async (path: string) => (await studio.get(`/api/${path}`)).body;
  const all = async (path: string): Promise<{ id: string; [key: string]: unknown }[]> => get(path);
  const one = async (path: string, id: string) => {
    const found = (await all(path)).find((entry) => entry.id === id);
    if (!found) throw new Error(`there is no ${id} at ${path}`);
    return found;
  };
  const [attributes, audiences, documents, collections] = await Promise.all(
    ['attributes', 'audiences', 'documents', 'collections'].map(all),
  );
  const set = first(attributes?.filter(({ type }) => type === 'set')).id;
  const audience = first(audiences?.filter(({ name }) => name === 'Midnight members') ?? audiences).id;
  const otherAudience = first(audiences?.filter(({ id }) => id !== audience)).id;
  const email = first(documents?.filter(({ kind }) => kind === 'email')).id;
  const collection = first(collections).id;
  const item = first(await all(`collections/${collection}/items`)).id;
  const [person, another] = (await get('contacts')).contacts;
  const imported = await importFile(studio, 'Email,City\ntrial@example.org,Tarnley\n', { run: false });
  const made = await studio.call('POST', '/api/api-keys', { name: 'Trial', origins: [], isSecret: true });
  const { key } = made.body;
  const slot = (await get('embedding')).slots[0].key;
  const { condition } = await one('audiences', audience);
  const member = { kind: 'test', attribute: 'tier', op: 'has-value', values: [] };
  const named = { kind: 'test', attribute: 'email', op: 'has-value', values: [] };
  const fact = (await studio.call('POST', '/api/facts', { who: member, also: named })).body.id;
  let freshNames = 0;
  const fresh = () => `trial-${++freshNames}`;
  const draft = async () => {
    const {
      id: _id,
      collection: _of,
      position: _at,
      ...rest
    } = await one(`collections/${collection}/items`, item);
    return rest;
  };
  const request = (path: string, body: unknown): Example => ({ path: `/api/${path}`, body });
  return new Map<string, () => Promise<Example>>(
    Object.entries({
      // First: what is broken later may be a draft that no release takes.
      'POST /api/releases': async () => {
        await studio.call('POST', '/api/documents', { kind: 'page', name: 'Trial', slug: fresh() });
        return request('releases', {
          note: 'Trial',
          fingerprint: (await get('releases/pending')).fingerprint,
        });
      },
      'POST /api/attributes': async () => {
        const id = fresh();
        return request('attributes', { attribute: { ...(await one('attributes', set)), id, label: id } });
      },
      'PUT /api/attributes': async () =>
        request('attributes', {
          ids: (await all('attributes')).filter(({ source }) => source === 'contact').map(({ id }) => id),
        }),
      'PUT /api/attributes/:id': async () => {
        const attribute = await one('attributes', set);
        return request(`attributes/${set}`, { before: attribute, attribute });
      },
      'POST /api/attributes/:id/merge-choices': async () => {
        const id = fresh();
        const attribute = {
          id,
          source: 'contact',
          label: id,
          description: '',
          type: 'choice',
          ordered: false,
          choices: [
            { id: 'a', label: 'A' },
            { id: 'b', label: 'B' },
          ],
        };
        await studio.call('POST', '/api/attributes', { attribute });
        return request(`attributes/${id}/merge-choices`, { from: 'a', into: 'b' });
      },
      'POST /api/contacts': async () =>
        request('contacts', { email: `${fresh()}@example.org`, values: { city: 'Tarnley', tags: ['moon'] } }),
      'PUT /api/contacts/:id': async () => {
        const { values, updatedAt } = await get(`contacts/${person.id}`);
        const { email: _, ...own } = values;
        return request(`contacts/${person.id}`, { values: own, mail: true, updatedAt });
      },
      'POST /api/contacts/exports': async () =>
        request('contacts/exports', { kind: 'csv', search: 'a', where: JSON.stringify(member) }),
      'POST /api/contacts/changes': async () =>
        request('contacts/changes', {
          change: { how: 'clear', attribute: 'city' },
          ids: [person.id],
          query: { search: 'a', where: JSON.stringify(member) },
        }),
      'PUT /api/imports/:id/plan': async () => request(`imports/${imported.id}/plan`, imported.plan),
      'PUT /api/crm': async () => request('crm', (await get('crm')).settings),
      'PUT /api/crm/stand-in': async () => request('crm/stand-in', (await get('crm')).standIn.switches),
      'POST /api/audiences': async () =>
        request('audiences', { name: fresh(), description: '', condition, examples: [] }),
      'PUT /api/audiences/:id': async () => {
        const { name, description, condition: now, examples, revision } = await one('audiences', audience);
        return request(`audiences/${audience}`, { name, description, condition: now, examples, revision });
      },
      'POST /api/audiences/count': async () => request('audiences/count', { condition, audience }),
      'POST /api/audiences/over-time': async () =>
        request('audiences/over-time', { condition, audience: null }),
      'POST /api/audiences/counts': async () =>
        request('audiences/counts', { conditions: [condition], channel: 'page' }),
      'POST /api/audiences/compare': async () =>
        request('audiences/compare', { audiences: [audience, otherAudience] }),
      'POST /api/audiences/:id/archive': async () =>
        request(`audiences/${audience}/archive`, { archived: false }),
      'POST /api/audiences/:id/owner': async () =>
        request(`audiences/${audience}/owner`, { ownerName: 'Maya' }),
      'POST /api/facts': async () => request('facts', { who: named, also: member }),
      'PUT /api/facts/:id': async () => {
        const { who, also, revision } = await one('facts', fact);
        return request(`facts/${fact}`, { who, also, revision });
      },
      'POST /api/files/:id/replacement': async () => {
        const drawing = async () =>
          (
            await studio.call(
              'POST',
              `/api/files?name=${fresh()}.svg`,
              Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>'),
              { 'content-type': 'application/octet-stream' },
            )
          ).body.id;
        return request(`files/${await drawing()}/replacement`, { by: await drawing() });
      },
      'POST /api/documents': async () => request('documents', { kind: 'page', name: 'Trial', slug: fresh() }),
      'POST /api/documents/from-html': async () =>
        request('documents/from-html', {
          name: 'Trial',
          slug: fresh(),
          html: '<h1>A</h1><p>B <b>c</b> <a href="/site/">d</a></p><ul><li>e</li></ul><img src="moon.png" alt="Moon">',
        }),
      'POST /api/documents/cast': async () =>
        request('documents/cast', {
          content: (await get('documents/home')).content,
          kind: 'page',
          instant: null,
        }),
      'POST /api/documents/:id/face.html': async () =>
        request('documents/home/face.html', {
          contact: person.values,
          signedIn: true,
          visit: {},
          item: null,
          instant: Date.now(),
        }),
      'PUT /api/documents/:id': async () => {
        const { id: _id, kind: _kind, updatedAt: _at, ...page } = await get('documents/home');
        return request('documents/home', page);
      },
      'POST /api/collections': async () => request('collections', { name: 'Trials', slug: fresh() }),
      'PUT /api/collections/:id': async () => {
        const { name, slug, fields, access, locked, revision } = await one('collections', collection);
        return request(`collections/${collection}`, { name, slug, fields, access, locked, revision });
      },
      'POST /api/collections/:id/items': async () => {
        const { revision: _revision, updatedAt: _at, ...rest } = await draft();
        return request(`collections/${collection}/items`, { ...rest, slug: fresh() });
      },
      'PUT /api/collections/:id/order': async () =>
        request(`collections/${collection}/order`, {
          ids: (await all(`collections/${collection}/items`)).map(({ id }) => id),
        }),
      'POST /api/collections/:id/import': async () =>
        request(`collections/${collection}/import`, {
          kind: 'json',
          text: (await studio.get(`/api/collections/${collection}/export/json`)).text,
          apply: true,
        }),
      'PUT /api/items/:id': async () => {
        const { updatedAt: _at, ...rest } = await draft();
        return request(`items/${item}`, rest);
      },
      'POST /api/api-keys': async () =>
        request('api-keys', { name: 'Trial', origins: ['https://www.example.org'], isSecret: false }),
      'PUT /api/settings': async () => {
        const settings = await get('settings');
        return request('settings', { before: settings, settings });
      },
      'POST /api/installation': async () =>
        request('installation', { html: `<div data-porch-slot="${slot}">x</div>`, page: null }),
      'POST /api/sends': async () =>
        request('sends', { document: email, contacts: [another.id], audience: null }),
      'POST /v1/decide': async () => ({
        path: '/v1/decide',
        body: {
          key,
          slots: [slot],
          person: { email: another.email },
          signedIn: true,
          visit: { url: '/?utm_source=trial', referrer: 'https://www.example.org/' },
          reasons: true,
        },
      }),
      'POST /v1/tokens': async () => ({
        path: '/v1/tokens',
        body: { key, person: { email: another.email }, seconds: 60 },
      }),
      'POST /api/contacts/:id/merge': async () => {
        const address = `${fresh()}@example.org`;
        await importFile(studio, `Email,City\n${address},Tarnley\n`);
        const { contacts } = await get(`contacts?search=${address}`);
        return request(`contacts/${another.id}/merge`, { other: contacts[0].id, fromOther: ['city'] });
      },
      'POST /api/session': async () =>
        request('session', { email: 'maya@example.org', password: 'look-up-tonight' }),
    }),
  );
}

function first<Entry>(list: readonly Entry[] | undefined): Entry {
  const [entry] = list ?? [];
  if (entry === undefined) throw new Error('the demo has none');
  return entry;
}
