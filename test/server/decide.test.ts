import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decideAnswerSchema } from '../../contract/decide.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

const origin = 'https://shop.example.org';
let instance: Instance;
let studio: Caller;
let browserKey: string;
let serverKey: string;
let offer: string;
let banner: string;

beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
  const make = async (draft: object) => (await studio.call('POST', '/api/api-keys', draft)).body.key;
  browserKey = await make({ name: 'The shop', origins: [origin], isSecret: false });
  serverKey = await make({ name: 'Its server', origins: [], isSecret: true });
  const { slots } = (await studio.get('/api/embedding')).body;
  const keyOf = (name: string) => slots.find(({ slot }: { slot: string }) => slot === name).key;
  [offer, banner] = [keyOf('Offer card'), keyOf('Welcome banner')];
});
afterAll(() => instance.stop());

const decide = (body: object, headers: Record<string, string> = {}) =>
  instance.visitor().call('POST', '/v1/decide', JSON.stringify(body), {
    'content-type': 'text/plain',
    ...headers,
  });
const asServer = (body: object) => decide({ key: serverKey, slots: [offer, banner], ...body });
const asPage = (body: object, from = origin) =>
  decide({ key: browserKey, slots: [offer, banner], ...body }, { origin: from });

describe('decisions for a server', () => {
  it('are what the site itself shows, with reasons where they are asked for', async () => {
    const anonymous = await asServer({});
    expect(decideAnswerSchema.parse(anonymous.body).slots[offer]?.html).toContain('Try Dusk for one month');
    expect(anonymous.body.slots[offer].variant).toBeNull();
    expect(anonymous.headers.get('cache-control')).toBe('private, no-store');

    const person = { email: 'noor.vale@example.org' };
    const noor = await asServer({ person, signedIn: true, reasons: true });
    expect(noor.body.slots[banner].html).toContain('The dome is yours tonight');
    expect(noor.body.slots[banner].html).not.toContain('Come and look up');
    expect(noor.body.slots[banner].reasons[0]).toMatchObject({
      audience: 'Midnight members',
      holds: true,
      because: 'membership tier is Midnight',
    });
    // The site itself says the same.
    const visitor = instance.visitor();
    await visitor.call(
      'POST',
      '/site/sign-in',
      new URLSearchParams({ email: person.email, password: demoSitePassword }),
    );
    expect((await visitor.get('/site/')).text).toContain(
      noor.body.slots[banner].html.replaceAll(instance.app.address, ''),
    );
  });

  it('lead everything in them to the site by its whole address', async () => {
    const { body } = await asServer({});
    const { html } = body.slots[offer];
    expect(html).toContain(`href="${instance.app.address}/site/membership"`);
    expect(html).not.toMatch(/ (src|href|action)="\//);
  });

  it('name slots that there are not, and treat unknown people as nobody', async () => {
    const { body } = await asServer({ slots: ['home/none', offer], person: { email: 'nobody@example.org' } });
    expect(body.unknown).toEqual(['home/none']);
    expect(body.slots[offer].variant).toBeNull();
  });

  it.each([
    ['no JSON', 'nonsense'],
    ['no slots', JSON.stringify({ key: 'x' })],
    ['a slot that is none', JSON.stringify({ key: 'x', slots: ['<script>'] })],
    [
      'too many slots',
      JSON.stringify({ key: 'x', slots: Array.from({ length: 101 }, (_, at) => `p/${at}`) }),
    ],
  ])('are refused for %s', async (_what, body) => {
    const answer = await instance
      .visitor()
      .call('POST', '/v1/decide', body, { 'content-type': 'text/plain' });
    expect(answer.status).toBe(400);
  });
});

describe('decisions for a page', () => {
  it('are given to the sites that the key is for, and say so to the browser (Fetch, 3.3)', async () => {
    const answer = await asPage({});
    expect(answer.status).toBe(200);
    expect(answer.headers.get('access-control-allow-origin')).toBe(origin);
    expect(answer.headers.get('vary')).toContain('Origin');
  });

  it.each([
    ['another site', 'https://evil.example'],
    ['the same name by another scheme', 'http://shop.example.org'],
    ['a name that begins so', 'https://shop.example.org.evil.example'],
    ['no site that is told', 'null'],
  ])('are refused to %s, which learns nothing', async (_what, from) => {
    const answer = await asPage({}, from);
    expect(answer.status).toBe(403);
    expect(answer.headers.get('access-control-allow-origin')).toBeNull();
    expect(answer.text).not.toContain('Dusk');
  });

  it('can’t name a person, only bring a token', async () => {
    for (const body of [
      { person: { email: 'noor.vale@example.org' } },
      { signedIn: true },
      { reasons: true },
    ])
      expect((await asPage(body)).status).toBe(403);
    const made = await instance
      .visitor()
      .call(
        'POST',
        '/v1/tokens',
        JSON.stringify({ key: serverKey, person: { email: 'noor.vale@example.org' } }),
        { 'content-type': 'application/json' },
      );
    const { token } = made.body;
    const known = await asPage({ person: { token } });
    // Known, not signed in: a tier is known, an access that asks for a sign-in would stay closed.
    expect(known.body.slots[banner].html).toContain('The dome is yours tonight');
    const [id, expires, signature] = token.split('.');
    for (const forged of [
      `${Number(id) + 1}.${expires}.${signature}`,
      `${id}.${Number(expires) + 99_999}.${signature}`,
      `${id}.1000.${signature}`,
      'x',
      '',
    ])
      expect((await asPage({ person: { token: forged } })).body.slots[banner].variant).toBeNull();
  });

  it('is asked with a token that opens nothing else: no link, no form', async () => {
    const made = await instance
      .visitor()
      .call(
        'POST',
        '/v1/tokens',
        JSON.stringify({ key: serverKey, person: { email: 'noor.vale@example.org' } }),
        {
          'content-type': 'application/json',
        },
      );
    const { token } = made.body;
    const lasts = Number(token.split('.')[1]) - Date.now() / 1000;
    expect(lasts).toBeLessThanOrEqual(600);
    const visitor = instance.visitor();
    const followed = await visitor.get(`/site/?k=${token}`);
    expect(followed.headers.getSetCookie().join()).not.toContain('porch_known');
    expect((await visitor.get('/site/')).text).not.toContain('The dome is yours tonight');
    const asCookie = await instance
      .visitor()
      .call('GET', '/site/', undefined, { cookie: `porch_known=${token}` });
    expect(asCookie.text).not.toContain('The dome is yours tonight');
  });

  it('a browser’s key makes no tokens, a server’s key is no use in a browser, an unknown one none anywhere', async () => {
    const tokens = (key: string, headers = {}) =>
      instance
        .visitor()
        .call('POST', '/v1/tokens', JSON.stringify({ key, person: { email: 'noor.vale@example.org' } }), {
          'content-type': 'text/plain',
          ...headers,
        });
    expect((await tokens(browserKey, { origin })).status).toBe(403);
    expect((await tokens(serverKey, { origin })).status).toBe(403);
    expect((await tokens('unknown')).status).toBe(401);
    expect((await decide({ key: 'unknown', slots: [] })).status).toBe(401);
  });

  it('give a bot what anybody gets, whoever it says it is', async () => {
    const made = await instance
      .visitor()
      .call(
        'POST',
        '/v1/tokens',
        JSON.stringify({ key: serverKey, person: { email: 'noor.vale@example.org' } }),
        {
          'content-type': 'text/plain',
        },
      );
    const answer = await decide(
      { key: browserKey, slots: [banner], person: { token: made.body.token } },
      { origin, 'user-agent': 'ExampleBot/1.0 (+https://bot.example)' },
    );
    expect(answer.body.slots[banner].variant).toBeNull();
  });

  it('stay in a frame of the sites that the key is for', async () => {
    const frame = await instance.visitor().get(`/embed/frame/${offer}?key=${browserKey}`);
    expect(frame.text).toContain('Try Dusk for one month');
    expect(frame.headers.get('content-security-policy')).toContain(`frame-ancestors ${origin}`);
    expect(frame.headers.get('x-frame-options')).toBeNull();
    expect((await instance.visitor().get(`/embed/frame/${offer}?key=${serverKey}`)).status).toBe(403);
    expect((await instance.visitor().get(`/embed/frame/home/none?key=${browserKey}`)).status).toBe(404);
    expect((await instance.visitor().get('/site/')).headers.get('content-security-policy')).toContain(
      "frame-ancestors 'none'",
    );
  });

  it('come by a script of at most 4 kB compressed', async () => {
    const { text, headers } = await instance.visitor().get('/embed/porch.js');
    expect(gzipSync(text).length).toBeLessThanOrEqual(4096);
    expect(headers.get('cross-origin-resource-policy')).toBe('cross-origin');
  });

  it('are described by OpenAPI 3.1, made of the schemas that check them', async () => {
    const { body } = await instance.visitor().get('/v1/openapi.json');
    expect(body.openapi).toBe('3.1.0');
    const { schema } = body.paths['/v1/decide'].post.requestBody.content['application/json'];
    expect(schema.required).toEqual(['key', 'slots']);
    expect(Object.keys(schema.properties)).toEqual([
      'key',
      'slots',
      'person',
      'signedIn',
      'visit',
      'reasons',
    ]);
  });
});

describe('the installation check', () => {
  const check = async (body: object) => studio.call('POST', '/api/installation', { page: null, ...body });
  const script = (key: string) =>
    `<script src="${instance.app.address}/embed/porch.js" data-key="${key}"></script>`;
  const place = (key: string) => `<div data-porch-slot="${key}">Words</div>`;

  it('passes where the script and every slot are there once', async () => {
    const { body } = await check({ html: `${script(browserKey)}${place(offer)}<p>${place(banner)}` });
    expect(body).toMatchObject({ script: 'there', passes: true });
    expect(body.slots.map(({ state }: { state: string }) => state)).toEqual(['found', 'found']);
  });

  it.each([
    ['missing', () => place(offer)],
    ['without-key', () => `<script src="/embed/porch.js"></script>${place(offer)}`],
    ['unknown-key', () => script('other') + place(offer)],
  ])('says that the script is %s', async (state, html) => {
    const { body } = await check({ html: html() });
    expect([body.script, body.passes]).toEqual([state, false]);
  });

  it('says which slots are missing, doubled or misspelt, and what is probably meant', async () => {
    const wrong = offer.replace('home', 'hmoe');
    const { body } = await check({
      html: script(browserKey) + place(banner) + place(banner) + place(wrong),
      page: 'home',
    });
    const states = Object.fromEntries(
      body.slots.map(({ key, state, meant }: { key: string; state: string; meant: string }) => [
        key,
        [state, meant],
      ]),
    );
    expect(states[banner]).toEqual(['doubled', null]);
    expect(states[wrong]).toEqual(['misspelt', offer]);
    expect(states[offer]).toEqual(['missing', null]);
    expect(body.passes).toBe(false);
  });

  it('reads a page of a site that a key is for, and of no other', async () => {
    const site = instance.app.foreignSite?.origin ?? '';
    expect((await check({ url: `${site}/` })).body).toMatchObject({ script: 'there', passes: true });
    expect((await check({ url: `${site}/without-script` })).body).toMatchObject({
      script: 'missing',
      passes: false,
    });
    expect((await check({ url: `${site}/nowhere` })).body.message).toContain('answers 404');
    const refused = await check({ url: 'http://169.254.169.254/latest/meta-data' });
    expect([refused.status, refused.body.message]).toEqual([422, expect.stringContaining('No key is for')]);
    expect((await check({ url: 'file:///etc/passwd' })).status).toBe(422);
  });
});

describe('keys', () => {
  it('are shown once, and worth nothing when they are deleted', async () => {
    const made = await studio.call('POST', '/api/api-keys', { name: 'Gone', origins: [], isSecret: true });
    const { id, key } = made.body;
    const listed = await studio.get('/api/api-keys');
    expect(listed.text).not.toContain(key);
    expect((await decide({ key, slots: [] })).status).toBe(200);
    await studio.call('DELETE', `/api/api-keys/${id}`);
    expect((await decide({ key, slots: [] })).status).toBe(401);
    expect((await studio.call('DELETE', `/api/api-keys/${id}`)).status).toBe(404);
  });

  it.each([
    [{ name: 'x', origins: [], isSecret: false }, 422],
    [{ name: '', origins: [], isSecret: true }, 400],
    [{ name: 'x', origins: ['https://a.example/path'], isSecret: false }, 400],
    [{ name: 'x', origins: ['*'], isSecret: false }, 400],
  ])('%j is refused', async (draft, status) => {
    expect((await studio.call('POST', '/api/api-keys', draft)).status).toBe(status);
  });
});
