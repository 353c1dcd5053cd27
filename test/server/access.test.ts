import { request as plainRequest } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ItemDraft, ListedCollection, StoredItem } from '../../contract/collections.ts';
import type { Document, Node } from '../../core/documents/document.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

/** Words that occur in the gated item only, wherever it could turn up. */
const secret = {
  title: 'Quasar lantern workshop',
  teaser: 'Grinding your own amber shade',
  text: 'Bring a zephyr cloth and forty marbles',
  address: 'quasar-lantern',
};
const svg = '<svg xmlns="http://www.w3.org/2000/svg"><title>only-in-this-drawing</title></svg>';

let instance: Instance;
let studio: Caller;
let item: StoredItem;
let file: string;

const signedIn = async (email: string): Promise<Caller> => {
  const caller = instance.visitor();
  await caller.call('POST', '/site/sign-in', new URLSearchParams({ email, password: demoSitePassword }));
  return caller;
};
const release = async (note: string): Promise<void> => {
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  const { status } = await studio.call('POST', '/api/releases', { note, fingerprint });
  expect(status).toBe(201);
};
const change = async (id: string, update: (document: Document) => Partial<Document>) => {
  const stored = (await studio.get(`/api/documents/${id}`)).body;
  return studio.call('PUT', `/api/documents/${id}`, { ...stored, ...update(stored) });
};

beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
  const uploaded = await studio.call('POST', '/api/files?name=shade.svg', Buffer.from(svg), {
    'content-type': 'application/octet-stream',
  });
  expect(uploaded.status).toBe(201);
  file = uploaded.body.id;
  const draft: ItemDraft = {
    slug: secret.address,
    title: secret.title,
    teaser: secret.teaser,
    access: 'midnight-members',
    from: null,
    until: null,
    values: { 'guides-picture': file, 'guides-level': 'expert', 'guides-text': secret.text },
  };
  item = (await studio.call('POST', '/api/collections/guides/items', draft)).body;
  // The page of it is in the menu of those who may open it only.
  const page = await studio.call('POST', '/api/documents', {
    kind: 'page',
    name: 'Vault of lanterns',
    slug: 'vault',
  });
  await change(page.body.id, () => ({ access: { audience: 'midnight-members', otherwise: 'sign-in' } }));
  const { body: settings } = await studio.get('/api/settings');
  await studio.call('PUT', '/api/settings', {
    before: settings,
    settings: { ...settings, menu: [...settings.menu, 'vault'] },
  });
  await release('A gated item');
});
afterAll(() => instance.stop());

const routes = () => [
  '/site/',
  '/site/sky-guides',
  `/site/guides/${secret.address}`,
  '/site/guides/feed.xml',
  '/site/sitemap.xml',
  '/site/search?q=lantern',
  '/site/search?q=zephyr',
  `/site/files/${file}`,
  `/site/files/${file}/480.webp`,
  '/site/vault',
  '/site/membership',
  '/site/theme.css',
  '/site/icon.svg',
  '/site/sign-in',
  '/site/nowhere',
];
const telltales = [
  secret.title,
  secret.teaser,
  secret.text,
  secret.address,
  'only-in-this-drawing',
  'zephyr cloth',
  'Vault of lanterns',
];

describe('an item that not everybody may open', () => {
  it.each(['nobody', 'tobias.orrin@example.org', 'ines.marlow@example.org', 'ruth.pellow@example.org'])(
    'leaves no trace in any answer to %s',
    async (who) => {
      const caller = who === 'nobody' ? instance.visitor() : await signedIn(who);
      for (const route of routes()) {
        const { text, headers } = await caller.get(route);
        // What one looked for oneself comes back in the field.
        const own = text.replace(/<input[^>]*>/g, '');
        for (const telltale of telltales)
          expect(own.includes(telltale), `${route} tells ${who} “${telltale}”`).toBe(false);
        for (const [name, value] of headers)
          if (name !== 'location') for (const telltale of telltales) expect(value).not.toContain(telltale);
      }
    },
  );

  it('is everywhere for who may', async () => {
    const noor = await signedIn('noor.vale@example.org');
    const shown = async (route: string) => (await noor.get(route)).text;
    expect(await shown(`/site/guides/${secret.address}`)).toContain(secret.text);
    expect(await shown('/site/sky-guides')).toContain(secret.title);
    expect(await shown('/site/guides/feed.xml')).toContain(secret.title);
    expect(await shown('/site/sitemap.xml')).toContain(`/site/guides/${secret.address}`);
    expect(await shown('/site/search?q=zephyr')).toContain(secret.title);
    expect(await shown(`/site/files/${file}`)).toContain('only-in-this-drawing');
    expect(await shown('/site/')).toContain('Vault of lanterns');
    expect(await shown('/site/vault')).toContain('Vault of lanterns');
  });

  // OWASP WSTG-ATHZ-01 (directory traversal) and -02 (bypassing authorisation), from memory.
  it.each([
    ['another case', '/site/Guides/Quasar-Lantern'],
    ['a slash more', `/site/guides/${secret.address}/`],
    ['two slashes', `/site//guides/${secret.address}`],
    ['an encoded slash', `/site/guides%2F${secret.address}`],
    ['an encoded letter', `/site/guides/%71uasar-lantern`],
    ['encoded dots', `/site/guides/x/%2e%2e/${secret.address}`],
    ['dots', `/site/guides/../guides/${secret.address}`],
    ['a parameter of the path', `/site/guides/${secret.address};a=b`],
    ['an ending', `/site/guides/${secret.address}.html`],
    ['a NUL', `/site/guides/${secret.address}%00`],
    ['a broken escape', `/site/guides/%E0%A4%A`],
    ['a query', `/site/guides/${secret.address}?preview=1&access=all`],
  ])('is not reached by %s', async (_what, path) => {
    for (const method of ['GET', 'HEAD', 'OPTIONS']) {
      const answer = await raw(method, path);
      for (const telltale of [secret.text, secret.title, secret.teaser])
        expect(answer).not.toContain(telltale);
    }
  });

  it.each([
    ['a range', { range: 'bytes=0-200' }],
    ['another method by header', { 'x-http-method-override': 'GET', 'x-original-url': '/site/vault' }],
    [
      'a host of its own',
      { 'x-forwarded-host': 'localhost', 'x-rewrite-url': `/site/guides/quasar-lantern` },
    ],
    ['any version', { 'if-none-match': '*' }],
    ['a time before', { 'if-modified-since': 'Thu, 01 Jan 1970 00:00:00 GMT' }],
  ])('is not given away to a request with %s (RFC 9110, 13 and 14)', async (_what, headers) => {
    for (const path of [
      `/site/guides/${secret.address}`,
      `/site/files/${file}`,
      `/site/files/${file}/960.webp`,
      '/site/vault',
    ]) {
      const answer = await raw('GET', path, headers);
      expect(answer).not.toMatch(/^HTTP\/1\.1 (304|206|416)/);
      for (const telltale of [...telltales.slice(0, 3), 'only-in-this-drawing'])
        expect(answer).not.toContain(telltale);
    }
  });

  it('tells of a version only those who may have it (RFC 9110, 13.1.2)', async () => {
    const noor = await signedIn('noor.vale@example.org');
    const address = `/site/files/${file}`;
    const tag = (await noor.get(address)).headers.get('etag') ?? '';
    const conditional = { 'if-none-match': tag, 'cache-control': 'max-age=0' };
    expect((await noor.call('GET', address, undefined, conditional)).status).toBe(304);
    expect((await instance.visitor().call('GET', address, undefined, conditional)).status).toBe(404);
  });

  it('leads who is signed out to the sign-in and back, and says to others that it is closed', async () => {
    const out = await instance.visitor().get('/site/vault');
    expect([out.status, out.headers.get('location')]).toEqual([303, '/site/sign-in?to=%2Fsite%2Fvault']);
    const noor = instance.visitor();
    const entered = await noor.call(
      'POST',
      '/site/sign-in?to=%2Fsite%2Fvault',
      new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword }),
    );
    expect(entered.headers.get('location')).toBe('/site/vault');
    const tobias = await signedIn('tobias.orrin@example.org');
    const closed = await tobias.get('/site/vault');
    expect([closed.status, closed.text.includes('You don’t have access to this page')]).toEqual([403, true]);
    // No other site is gone to after signing in.
    for (const to of [
      '//evil.example',
      'https://evil.example',
      '/site/\\evil.example',
      '/site//evil.example',
    ])
      expect(
        (
          await instance
            .visitor()
            .call(
              'POST',
              `/site/sign-in?to=${encodeURIComponent(to)}`,
              new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword }),
            )
        ).headers.get('location'),
      ).toBe('/site/');
  });

  it('is listed as locked with its teaser and nothing more, where its collection says so', async () => {
    const collections: ListedCollection[] = (await studio.get('/api/collections')).body;
    const guides = collections.find(({ slug }) => slug === 'guides');
    if (!guides) throw new Error('no guides');
    const { id, name, slug, fields, access, revision } = guides;
    await studio.call('PUT', `/api/collections/${id}`, {
      name,
      slug,
      fields,
      access,
      locked: true,
      revision,
    });
    await release('Locked entries');
    const { text } = await instance.visitor().get('/site/sky-guides');
    expect(text).toContain(secret.title);
    expect(text).toContain(secret.teaser);
    expect(text).not.toContain(secret.text);
    expect(text).not.toContain(file);
    for (const route of [`/site/guides/${secret.address}`, '/site/search?q=zephyr', '/site/guides/feed.xml'])
      expect((await instance.visitor().get(route)).text).not.toContain(secret.text);
    expect((await instance.visitor().get(`/site/files/${file}`)).status).toBe(404);
    await studio.call('PUT', `/api/collections/${id}`, {
      name,
      slug,
      fields,
      access,
      locked: false,
      revision: revision + 1,
    });
    await release('Hidden again');
  });

  it('is not counted among what a visitor opened who could not open it', async () => {
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'Came back to it',
      condition: { kind: 'test', attribute: 'visit-item-views', op: 'at-least', values: [2] },
    });
    expect(audience.status).toBe(201);
    const slot: Node = {
      kind: 'slot',
      id: 'came-back',
      name: 'Came back',
      variants: [{ id: 'came-back-a', audience: audience.body.id, content: [] }],
      otherwise: [],
    };
    const home = (await studio.get('/api/documents/home')).body;
    await change('home', ({ content }) => ({ content: { ...content, body: [...content.body, slot] } }));
    await release('Something that remembers');
    const remembered = async (caller: Caller) => {
      const { headers } = await caller.get(`/site/guides/${secret.address}`);
      const cookie = headers.getSetCookie().find((one) => one.startsWith('porch_visit=')) ?? '';
      return Buffer.from(/=([^;]*)/.exec(cookie)?.[1] ?? '', 'base64url').toString();
    };
    const hidden = await remembered(instance.visitor());
    expect(hidden).toContain('"items":{}');
    expect(hidden).not.toContain(item.id);
    expect(await remembered(await signedIn('noor.vale@example.org'))).toContain(item.id);
    await change('home', () => ({ content: home.content }));
    await release('Nothing that remembers');
  });

  it('has a feed that answers as one that there is not, to whom its collection is closed', async () => {
    const collections: ListedCollection[] = (await studio.get('/api/collections')).body;
    const guides = collections.find(({ slug }) => slug === 'guides');
    if (!guides) throw new Error('no guides');
    const { id, name, slug, fields, access, locked, revision } = guides;
    const put = (own: string | null, at: number) =>
      studio.call('PUT', `/api/collections/${id}`, { name, slug, fields, access: own, locked, revision: at });
    await put('midnight-members', revision);
    await release('Guides for some');
    const [closed, unknown] = [
      await instance.visitor().get('/site/guides/feed.xml'),
      await instance.visitor().get('/site/nowhere/feed.xml'),
    ];
    expect([closed.status, closed.text]).toEqual([unknown.status, unknown.text]);
    const noor = await signedIn('noor.vale@example.org');
    expect((await noor.get('/site/guides/feed.xml')).status).toBe(200);
    await put(access, revision + 1);
    await release('Guides for all');
    expect((await instance.visitor().get('/site/guides/feed.xml')).status).toBe(200);
  });

  it('is there within its window only: the start included, the end not', async () => {
    const now = Date.now();
    const at = (hours: number) => new Date(now + hours * 3_600_000).toISOString();
    const answers: number[] = [];
    let { revision } = item;
    const { id, collection: _c, position: _p, updatedAt: _u, revision: _r, ...draft } = item;
    for (const [from, until] of [
      [at(-1), at(1)],
      [at(1), null],
      [null, at(-1)],
      [null, null],
    ]) {
      const kept = await studio.call('PUT', `/api/items/${id}`, {
        ...draft,
        from,
        until,
        access: null,
        revision,
      });
      revision = kept.body.revision;
      await release('A window');
      answers.push((await instance.visitor().get(`/site/guides/${secret.address}`)).status);
    }
    expect(answers).toEqual([200, 404, 404, 200]);
    const gone = await studio.call('PUT', `/api/items/${id}`, {
      ...draft,
      from: at(2),
      until: at(1),
      revision,
    });
    expect([gone.status, gone.body.message]).toEqual([422, expect.stringContaining('end before it starts')]);
    const late = await studio.call('PUT', `/api/items/${id}`, { ...draft, revision: 1 });
    expect([late.status, late.body.current.slug]).toEqual([409, secret.address]);
    await studio.call('PUT', `/api/items/${id}`, { ...draft, revision });
    await release('As it was');
  });
});

/** A request as it is written, which `fetch` would tidy up. */
function raw(method: string, path: string, headers: Record<string, string> = {}): Promise<string> {
  const { hostname, port } = new URL(instance.app.address);
  return new Promise((resolve, reject) => {
    const sent = plainRequest({ hostname, port, method, path, headers }, (response) => {
      let text = `HTTP/1.1 ${response.statusCode}\n`;
      response.setEncoding('utf8');
      response.on('data', (chunk) => {
        text += chunk;
      });
      response.on('end', () => resolve(text));
    });
    sent.on('error', reject);
    sent.end();
  });
}
