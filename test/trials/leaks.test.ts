import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ListedCollection } from '../../contract/collections.ts';
import type { Node } from '../../core/documents/document.ts';
import { words } from '../../core/documents/text.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Answer, type Caller, type Instance, startInstance } from '../server/instance.ts';
import { noteRoutes, type Route } from './routes.ts';

// Everything that the server answers anybody is asked for, at every address that its routers have, with every name that
// there is in every place: what is hidden is in none of it.

/** Words that stand in something hidden, one each; all begin alike, so that a search for the beginning finds them. */
const hidden = [
  'zqvariant',
  'zqnested',
  'zqform',
  'zqinline',
  'zqfile',
  'zqpage',
  'zqclosed',
  'zqitem',
  'zqfield',
  'zqmenu',
] as const;
/** Words that nobody gets on the site: of an email, of drafts, and names that only the studio has. */
const nobodys = ['zqemail', 'zqdraft', 'zqaudience', 'zqslot'] as const;

let instance: Instance;
let routes: Route[];
/** What may stand in the places of addresses; and in those of collections, of which there are pairs with all others. */
let names: string[];
let ofCollections: string[];
let browserKey: string;

beforeAll(async () => {
  const noted = noteRoutes();
  instance = await startInstance();
  routes = noted();
  await hide();
});
afterAll(() => instance.stop());

const get = async (path: string) => (await instance.studio.get(`/api/${path}`)).body;
const send = async (method: string, path: string, body: unknown): Promise<Answer> => {
  const answer = await instance.studio.call(method, `/api/${path}`, body);
  if (answer.status >= 400) throw new Error(`${method} ${path}: ${answer.text}`);
  return answer;
};

const heading = (id: string, text: string): Node => ({ kind: 'heading', id, level: 2, content: words(text) });
const access = { audience: 'midnight-members', otherwise: 'not-found' as const };
const only = (id: string, content: Node[]): Node => ({
  kind: 'slot',
  id,
  name: `zqslot ${id}`,
  variants: [{ id: `${id}-a`, audience: 'midnight-members', content }],
  otherwise: [],
});

async function newPage(slug: string, body: Node[], more: object = {}): Promise<string> {
  const { id } = (await send('POST', 'documents', { kind: 'page', name: `Page ${slug}`, slug })).body;
  const stored = await get(`documents/${id}`);
  await send('PUT', `documents/${id}`, { ...stored, ...more, content: { subject: [], preview: [], body } });
  return id;
}

async function newCollection(slug: string, closedTo: string | null, body: (field: string) => Node[]) {
  const { id } = (await send('POST', 'collections', { name: `Collection ${slug}`, slug })).body;
  const field = {
    use: 'long-text',
    attribute: { id: 'x', source: 'item', description: '', label: 'more', type: 'text' },
  };
  const stored = (await get('collections')).find((one: ListedCollection) => one.id === id);
  await send('PUT', `collections/${id}`, {
    name: stored.name,
    slug,
    fields: [field],
    access: closedTo,
    locked: false,
    revision: stored.revision,
  });
  const [made] = (await get('collections')).find((one: ListedCollection) => one.id === id).fields;
  const page = await newPage(`${slug}-page`, body(made.attribute.id), { collection: id });
  return { id, page, field: made.attribute.id };
}

const newItem = (collection: string, slug: string, title: string, values: object, closedTo: string | null) =>
  send('POST', `collections/${collection}/items`, {
    slug,
    title,
    teaser: '',
    values,
    access: closedTo,
    from: null,
    until: null,
  });

/** Puts something hidden in every place that can hide it, and releases it. */
async function hide(): Promise<void> {
  const uploaded = await instance.studio.call(
    'POST',
    '/api/files?name=hidden.svg',
    Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><title>zqfile</title></svg>'),
    { 'content-type': 'application/octet-stream' },
  );
  const file = uploaded.body.id;
  await newPage('showing', [
    heading('open', 'Open to all'),
    only('outer', [
      heading('v', 'zqvariant'),
      only('inner', [heading('n', 'zqnested')]),
      {
        kind: 'form',
        id: 'secret-form',
        fields: [{ attribute: 'first-name', label: 'zqform', required: false }],
        submit: 'Send',
        next: '',
      },
      { kind: 'picture', id: 'secret-picture', picture: 'comet', alt: '', file },
    ]),
    {
      kind: 'heading',
      id: 'differing',
      level: 2,
      content: [
        {
          type: 'alternatives',
          attrs: {
            id: 'within',
            name: 'within',
            variants: [{ id: 'within-a', audience: 'midnight-members', words: 'zqinline' }],
            otherwise: 'plain',
          },
        },
      ],
    },
  ]);
  await newPage('closed', [heading('c', 'zqpage'), only('closed-inner', [heading('ci', 'zqnested')])], {
    access,
  });
  const closed = await newCollection('vault', 'midnight-members', (field) => [
    {
      kind: 'heading',
      id: 'vi',
      level: 1,
      content: [{ type: 'mergeField', attrs: { attribute: field, fallback: '' } }],
    },
    only('vault-inner', [heading('vv', 'zqvariant')]),
  ]);
  await newItem(closed.id, 'of-vault', 'zqclosed in the vault', { [closed.field]: 'zqclosed' }, null);
  const open = await newCollection('things', null, (field) => [
    {
      kind: 'heading',
      id: 'ti',
      level: 1,
      content: [{ type: 'mergeField', attrs: { attribute: 'item-title', fallback: '' } }],
    },
    only('things-inner', [
      {
        kind: 'heading',
        id: 'tf',
        level: 2,
        content: [{ type: 'mergeField', attrs: { attribute: field, fallback: '' } }],
      },
    ]),
  ]);
  await newItem(open.id, 'seen', 'Seen by all', { [open.field]: 'zqfield' }, null);
  await newItem(open.id, 'gated', 'zqitem', { [open.field]: 'zqitem' }, 'midnight-members');
  await newPage('lists', [
    {
      kind: 'list',
      id: 'l1',
      collection: open.id,
      layout: 'cards',
      where: null,
      sort: 'order',
      down: false,
      most: 50,
      empty: '',
    },
  ]);
  await send('POST', 'audiences', {
    name: 'zqaudience',
    description: 'zqaudience',
    condition: { kind: 'all', of: [] },
    examples: [],
  });
  const settings = await get('settings');
  const menu = [
    ...(settings.menu ?? []),
    { page: 'showing', variants: [{ audience: 'midnight-members', label: 'zqmenu' }], otherwise: 'Showing' },
    {
      name: 'zqgroup',
      variants: [{ audience: 'midnight-members', label: '' }],
      otherwise: null,
      entries: [{ name: 'zqlink', address: 'https://away.example.org/zqplace', variants: [], otherwise: '' }],
    },
  ];
  await send('PUT', 'settings', { before: settings, settings: { ...settings, menu } });
  const email = (await send('POST', 'documents', { kind: 'email', name: 'Hidden', slug: 'hidden-email' }))
    .body.id;
  const stored = await get(`documents/${email}`);
  await send('PUT', `documents/${email}`, {
    ...stored,
    content: { ...stored.content, body: [heading('e', 'zqemail')] },
  });
  const { fingerprint } = await get('releases/pending');
  await send('POST', 'releases', { note: 'zqdraft', fingerprint });
  await newPage('not-yet', [heading('d', 'zqdraft')]);
  browserKey = (
    await send('POST', 'api-keys', {
      name: 'zqdraft',
      origins: ['https://shop.example.org'],
      isSecret: false,
    })
  ).body.key;
  const documents: { id: string; slug: string }[] = await get('documents');
  const collections: { id: string; slug: string }[] = await get('collections');
  const items = await Promise.all(collections.map(({ id }) => get(`collections/${id}/items`)));
  const slots: { key: string }[] = (await get('embedding')).slots;
  ofCollections = [...collections.flatMap(({ id, slug }) => [id, slug]), 'showing', 'closed'];
  names = [
    ...documents.flatMap(({ id, slug }) => [id, slug]),
    ...collections.flatMap(({ id, slug }) => [id, slug]),
    ...items.flat().flatMap(({ id, slug }) => [id, slug]),
    ...slots.map(({ key }) => key.split('/')[1] ?? ''),
    'outer',
    'inner',
    'closed-inner',
    'vault-inner',
    'things-inner',
    'secret-form',
    file,
    'demo-star-chart',
    'midnight-members',
    'zq',
  ].filter((name) => name !== '');
  names = [...new Set(names)];
}

/** Every address of a route with every name in each of its places; of two places, every pair. */
function addressesOf(path: string): string[] {
  const places = path.match(/\{?:\w+\}?/g) ?? [];
  return places.reduce<string[]>(
    (all, place) =>
      all.flatMap((one) =>
        (place === ':collection' ? ofCollections : names).map((name) =>
          one.replace(place, encodeURIComponent(name)),
        ),
      ),
    [path],
  );
}

/** Everything that a visitor is answered, at every address that is for visitors. */
async function everything(caller: Caller): Promise<{ address: string; answer: Answer }[]> {
  const asked: { method: string; address: string; body?: unknown; headers?: Record<string, string> }[] = [];
  for (const { method, path } of routes) {
    // Frames are asked for below, with a key.
    if (!path.startsWith('/site') || method !== 'GET') continue;
    for (const address of addressesOf(path)) asked.push({ method, address });
  }
  for (const query of ['q=zq', 'q=vault', 'q=see'])
    asked.push({ method: 'GET', address: `/site/search?${query}` });
  for (const page of names)
    for (const slot of ['outer', 'inner', 'closed-inner', 'vault-inner', 'things-inner'])
      asked.push({ method: 'GET', address: `/embed/frame/${page}/${slot}?key=${browserKey}` });
  const keys = names.flatMap((page) =>
    ['outer', 'inner', 'closed-inner', 'vault-inner', 'things-inner', 'within'].map(
      (slot) => `${page}/${slot}`,
    ),
  );
  for (let from = 0; from < keys.length; from += 100)
    asked.push({
      method: 'POST',
      address: '/v1/decide',
      body: { key: browserKey, slots: keys.slice(from, from + 100), person: null },
      headers: { origin: 'https://shop.example.org' },
    });
  for (const page of names)
    asked.push({
      method: 'POST',
      address: `/site/forms/${page}/secret-form`,
      body: new URLSearchParams({ 'first-name': 'x' }),
    });
  asked.push({ method: 'GET', address: '/health' }, { method: 'GET', address: '/v1/openapi.json' });
  const answers: { address: string; answer: Answer }[] = [];
  for (const { method, address, body, headers } of asked)
    answers.push({
      address: `${method} ${address}`,
      answer: await caller.call(method, address, body, headers),
    });
  return answers;
}

/** The words that stand in an answer, its headers included. */
function wordsIn({ text, headers }: Answer, among: readonly string[]): string[] {
  const whole = `${text} ${[...headers].join(' ')}`;
  return among.filter((word) => whole.includes(word));
}

async function signedIn(email: string): Promise<Caller> {
  const caller = instance.visitor();
  await caller.call('POST', '/site/sign-in', new URLSearchParams({ email, password: demoSitePassword }));
  return caller;
}

const all = [...hidden, ...nobodys];

describe('what is hidden', () => {
  it('is got by those it is for, so that this test can find it', async () => {
    const found = new Set(
      (await everything(await signedIn('noor.vale@example.org'))).flatMap(({ answer }) =>
        wordsIn(answer, all),
      ),
    );
    expect([...found].sort()).toEqual([...hidden].sort());
  });

  it.each(['nobody', 'tobias.orrin@example.org'])('is in nothing that %s is answered', async (who) => {
    const caller = who === 'nobody' ? instance.visitor() : await signedIn(who);
    const answers = await everything(caller);
    expect(answers.filter(({ answer }) => answer.status >= 500).map(({ address }) => address)).toEqual([]);
    const leaks = answers.flatMap(({ address, answer }) =>
      wordsIn(answer, all).map((word) => `${word}: ${address}`),
    );
    expect(leaks).toEqual([]);
    process.stdout.write(`${answers.length} answers to ${who}\n`);
  });

  it('is in nothing of the studio for who is not signed in to it', async () => {
    const visitors = [instance.visitor(), await signedIn('noor.vale@example.org')];
    for (const { method, path } of routes) {
      if (!path.startsWith('/api') || path.startsWith('/api/session')) continue;
      const [address = path] = addressesOf(path);
      for (const visitor of visitors) {
        const answer = await visitor.call(method, address);
        expect([method, path, answer.status, wordsIn(answer, all)]).toEqual([method, path, 401, []]);
      }
    }
  });
});
