import { simpleParser } from 'mailparser';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Document, Node } from '../../core/documents/document.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { SettingRow } from '../../server/store/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Caller, type Instance, sendEmail, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const change = async (id: string, update: (document: Document) => Partial<Document>) => {
  const stored = (await studio.get(`/api/documents/${id}`)).body;
  return studio.call('PUT', `/api/documents/${id}`, { ...stored, ...update(stored) });
};
const release = async (note: string) => {
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  return studio.call('POST', '/api/releases', { note, fingerprint });
};
const formOf = async (caller: Caller, page: string) =>
  /action="(\/site\/forms\/[^"]+)"/.exec((await caller.get(page)).text)?.[1] ?? '';
const signedIn = async (email: string): Promise<Caller> => {
  const caller = instance.visitor();
  await caller.call('POST', '/site/sign-in', new URLSearchParams({ email, password: demoSitePassword }));
  return caller;
};
const contactNamed = async (email: string) =>
  (await studio.get(`/api/contacts?search=${encodeURIComponent(email)}`)).body.contacts[0];

describe('a form', () => {
  it('has its answers applied before the next page is decided', async () => {
    const ruth = await signedIn('ruth.pellow@example.org');
    const action = await formOf(ruth, '/site/survey');
    const sent = await ruth.call('POST', action, new URLSearchParams({ tags: 'planets' }));
    expect([sent.status, sent.headers.get('location')]).toEqual([303, '/site/outcome']);
    expect((await ruth.get('/site/outcome')).text).toContain('Planets it is');
    // Another answer of the same group takes the place of the first.
    await ruth.call('POST', action, new URLSearchParams({ tags: 'sun' }));
    const { text } = await ruth.get('/site/outcome');
    expect([text.includes('The Sun it is'), text.includes('Planets it is')]).toEqual([true, false]);
    const { id } = await contactNamed('ruth.pellow@example.org');
    const [latest] = (await studio.get(`/api/contacts/${id}/history`)).body;
    expect(latest).toMatchObject({ source: 'form', by: 'the site' });
  });

  it('adds somebody new, who is known from then on without being signed in', async () => {
    const visitor = instance.visitor();
    const action = await formOf(visitor, '/site/survey');
    const sent = await visitor.call(
      'POST',
      action,
      new URLSearchParams({ email: 'new.gazer@example.org', tags: 'moon' }),
    );
    expect(sent.status).toBe(303);
    const { text } = await visitor.get('/site/outcome');
    expect(text).toContain('The Moon it is');
    expect(text).toContain('>Sign in<');
    expect((await contactNamed('new.gazer@example.org')).values).toMatchObject({ tags: ['moon'] });
  });

  it('knows an address whatever its case, and takes one that differs in an accent for another', async () => {
    const action = await formOf(instance.visitor(), '/site/survey');
    const send = (email: string) =>
      instance.visitor().call('POST', action, new URLSearchParams({ email, tags: 'moon' }));
    const count = async () => (await studio.get('/api/contacts?search=')).body.total;
    const before = await count();
    await send('rene@example.org');
    await send('RENE@example.org');
    expect(await count()).toBe(before + 1);
    await send('rené@example.org');
    expect(await count()).toBe(before + 2);
  });

  it('takes the same new address sent many times at once for one person, and fails for none', async () => {
    const count = async () => (await studio.get('/api/contacts')).body.total;
    const before = await count();
    const action = await formOf(instance.visitor(), '/site/survey');
    const sent = await Promise.all(
      Array.from({ length: 8 }, (_, index) =>
        instance.visitor().call(
          'POST',
          action,
          new URLSearchParams({
            email: index % 2 ? 'twice@example.org' : 'Twice@example.org',
            tags: 'moon',
          }),
        ),
      ),
    );
    expect(sent.map(({ status }) => status).filter((status) => status >= 400)).toEqual([]);
    expect(await count()).toBe(before + 1);
  });

  it('lets nobody in by an address that is known, nor change what is there', async () => {
    const noor = await contactNamed('noor.vale@example.org');
    const visitor = instance.visitor();
    const action = await formOf(visitor, '/site/survey');
    await visitor.call('POST', action, new URLSearchParams({ email: noor.email, tags: 'sun' }));
    const after = await contactNamed(noor.email);
    if (noor.values.tags) expect(after.values.tags).toEqual(noor.values.tags);
    // They go on by their own answers, as somebody new does.
    expect((await visitor.get('/site/outcome')).text).toContain('The Sun it is');
    expect((await visitor.get('/site/')).text).not.toContain('Noor');
  });

  it.each([
    ['no answer where one is needed', { email: 'a@example.org' }, 'needs an answer'],
    ['a choice that is not offered', { email: 'a@example.org', tags: 'family' }, 'not one of the choices'],
    ['no address', { tags: 'moon' }, 'is needed'],
    ['no address at all like one', { email: 'a b', tags: 'moon' }, 'not an email address'],
    ['a line break in it', { email: 'a@example.org\nBcc: b@example.org', tags: 'moon' }, 'control character'],
  ])('says what is wrong with %s and stores nothing', async (_what, answers, message) => {
    const visitor = instance.visitor();
    const sent = await visitor.call(
      'POST',
      await formOf(visitor, '/site/survey'),
      new URLSearchParams(answers),
    );
    expect([sent.status, sent.text.includes(message)]).toEqual([422, true]);
  });

  it('is refused from another site, and where there is none', async () => {
    const visitor = instance.visitor();
    const action = await formOf(visitor, '/site/survey');
    const foreign = await visitor.call('POST', action, new URLSearchParams({ tags: 'moon' }), {
      origin: 'https://evil.example',
    });
    expect(foreign.status).toBe(403);
    expect((await visitor.call('POST', '/site/forms/home/none', new URLSearchParams())).status).toBe(404);
  });
});

describe('a link from an email', () => {
  it('says who comes, for a time, to the site only; a forged, damaged or foreign one says nothing', async () => {
    const noor = await contactNamed('noor.vale@example.org');
    await sendEmail(studio, { contacts: [noor.id] });
    const [message] = (await studio.get('/api/mailbox?search=noor.vale')).body;
    const raw = (await studio.get(`/api/mailbox/${message.id}/message.eml`)).text;
    const { html, text } = await simpleParser(raw);
    const link = /href="([^"]*\/site\/membership\?k=[^"]*)"/.exec(String(html))?.[1] ?? '';
    expect(text).toContain('/site/membership?k=');
    const { pathname, search } = new URL(link);
    const visitor = instance.visitor();
    const first = await visitor.get(pathname + search);
    expect([first.status, first.headers.get('location')]).toEqual([302, '/site/membership']);
    const page = (await visitor.get('/site/')).text;
    expect(page).toContain('The dome is yours tonight, Noor');
    expect(page).toContain('>Sign in<');
    // Known is not signed in: what asks for a sign-in stays closed.
    expect((await visitor.get('/site/guides/dome-by-yourself')).text).not.toContain(
      'log book is kept in pencil',
    );
    const token = new URLSearchParams(search).get('k') ?? '';
    const [id, expires, signature = ''] = token.split('.');
    for (const bad of [
      `${Number(id) + 1}.${expires}.${signature}`,
      `${id}.${Number(expires) + 1}.${signature}`,
      `${id}.${expires}.${signature.startsWith('A') ? 'B' : 'A'}${signature.slice(1)}`,
      `${id}.1.${signature}`,
      '../../etc/passwd',
      'x'.repeat(10_000),
    ]) {
      const other = instance.visitor();
      await other.get(`/site/?k=${encodeURIComponent(bad)}`);
      expect((await other.get('/site/')).text).toContain('Come and look up');
      expect(
        (await other.call('GET', '/site/', undefined, { cookie: `porch_known=${encodeURIComponent(bad)}` }))
          .text,
      ).toContain('Come and look up');
    }
    await visitor.call('POST', '/site/sign-out');
    expect((await visitor.get('/site/')).text).toContain('Come and look up');
  });
});

describe('shared content', () => {
  const words = (id: string, text: string): Node => ({
    kind: 'heading',
    id,
    level: 2,
    content: [{ type: 'text', text }],
  });
  const piece = async (name: string) => {
    const { body } = await studio.call('POST', '/api/documents', {
      kind: 'shared',
      name,
      slug: name.toLowerCase(),
    });
    return body.id as string;
  };

  it('changed once changes everywhere it stands, on pages and in emails', async () => {
    const id = await piece('Offer');
    await change(id, (document) => ({
      content: { ...document.content, body: [words('w', 'Soup at the kiosk')] },
    }));
    for (const document of ['membership', 'monthly-almanac'])
      await change(document, ({ content }) => ({
        content: {
          ...content,
          body: [...content.body, { kind: 'shared', id: `in-${document}`, document: id }],
        },
      }));
    await release('With soup');
    expect((await instance.visitor().get('/site/membership')).text).toContain('Soup at the kiosk');
    await change(id, (document) => ({
      content: { ...document.content, body: [words('w', 'Tea at the kiosk')] },
    }));
    const { changes } = (await studio.get('/api/releases/pending')).body;
    expect(changes.map(({ name }: { name: string }) => name).sort()).toEqual([
      'Membership',
      'Monthly almanac',
      'Offer',
    ]);
    await release('With tea');
    expect((await instance.visitor().get('/site/membership')).text).toContain('Tea at the kiosk');
    const refused = await studio.call('DELETE', `/api/documents/${id}`);
    expect([refused.status, refused.body.message]).toEqual([
      409,
      expect.stringMatching(/“(Membership|Monthly almanac)” uses this/),
    ]);
  });

  it('can’t stand in itself, through any number of pieces', async () => {
    const [one, two] = [await piece('First'), await piece('Second')];
    const holding = (document: string) => ({
      content: { subject: [], preview: [], body: [{ kind: 'shared' as const, id: 'x', document }] },
    });
    expect((await change(one, () => holding(two))).status).toBe(200);
    const circle = await change(two, () => holding(one));
    expect([circle.status, circle.body.message]).toEqual([
      422,
      expect.stringContaining('“First” → “Second” → “First”'),
    ]);
    expect((await change(one, () => holding(one))).status).toBe(422);
  });
});

describe('HTML from elsewhere', () => {
  it('becomes blocks, and what was left out is said', async () => {
    const html = `<!doctype html><html><head><title>Old page</title><style>p{}</style><script>alert(1)</script></head>
      <body><h1>Winter <em>nights</em></h1><p>Bring a <b>flask<p>And a <a href="javascript:alert(1)">hat</a>
      <ul><li>one<li>two <a href="/site/">home</a></ul><table><tr><th>Day<td>Hour</table><img src=x onerror=alert(1) alt="The dome">
      <iframe src="https://evil.example"></iframe><form><input name=a>Tell us</form>`;
    const made = await studio.call('POST', '/api/documents/from-html', {
      name: 'Old page',
      slug: 'old-page',
      html,
    });
    expect(made.status).toBe(201);
    const dropped = Object.fromEntries(
      made.body.dropped.map(({ what, count }: { what: string; count: number }) => [what, count]),
    );
    expect(dropped).toMatchObject({ script: 1, 'style sheet': 1, frame: 1, form: 1 });
    await release('An old page');
    const { text } = await instance.visitor().get('/site/old-page');
    const main = text.slice(text.indexOf('<main'), text.indexOf('</main>'));
    expect(main).toContain('<h1 class="heading">Winter <em>nights</em></h1>');
    expect(main).toContain('<strong>flask</strong>');
    expect(main).toContain('<li><p>two <a href="/site/">home</a></p></li>');
    expect(main).toContain('<th><p>Day</p></th><td><p>Hour</p></td>');
    expect(main).not.toMatch(/javascript:|onerror|<script|<iframe|evil/);
  });

  it('is refused past 5 MB, and under an address that is taken', async () => {
    const large = await studio.call('POST', '/api/documents/from-html', {
      name: 'Large',
      slug: 'large',
      html: 'x'.repeat(5_000_001),
    });
    expect(large.status).toBe(400);
    for (const slug of ['membership', 'guides', 'search', 'Ünsinn', 'a b'])
      expect(
        (await studio.call('POST', '/api/documents/from-html', { name: 'Taken', slug, html: '<p>x' })).status,
      ).toBeGreaterThanOrEqual(400);
  });

  // OWASP XSS filter evasion style inputs.
  it.each([
    '<script>alert(1)</script>',
    '<img src=x onerror=alert(1)>',
    '<svg/onload=alert(1)>',
    '<a href="jav&#x09;ascript:alert(1)">x</a>',
    '<iframe srcdoc="<script>alert(1)</script>"></iframe>',
    '<style>@import "//evil.example"</style>',
    '<form action="//evil.example"><input name=password></form>',
    '<p style="background:url(javascript:alert(1))">x</p>',
    '<math><mi//xlink:href="data:x,<script>alert(4)</script>">',
  ])('%j in a block is taken out when it is stored', async (html) => {
    const kept = await change('membership', ({ content }) => ({
      content: {
        ...content,
        body: [
          ...content.body.filter(({ id }) => id !== 'raw'),
          { kind: 'html', id: 'raw', html: `<p>ok</p>${html}` },
        ],
      },
    }));
    const block = kept.body.content.body.find(({ id }: { id: string }) => id === 'raw');
    expect(block.html).toContain('<p>ok</p>');
    expect(block.html).not.toMatch(/script|onerror|onload|iframe|style|evil|form/i);
  });
});

describe('a face as one file', () => {
  it('needs nothing else, runs nothing, and leads to the site by its whole address', async () => {
    const viewer = {
      contact: { tier: 'midnight', 'first-name': 'Noor' },
      signedIn: true,
      visit: {},
      item: null,
      instant: Date.now(),
    };
    const { text, headers } = await studio.call('POST', '/api/documents/home/face.html', viewer);
    expect(headers.get('content-disposition')).toContain('home.html');
    expect(text).toContain('The dome is yours tonight, Noor');
    expect(text).not.toMatch(/<script|<link|Come and look up/);
    expect(text).toContain('src="data:image/svg+xml;base64,');
    for (const [, address = ''] of text.matchAll(/(?:src|href|action)="([^"]*)"/g))
      expect(address).toMatch(/^(data:|#content$|http:\/\/127\.0\.0\.1)/);
    expect((await studio.call('POST', '/api/documents/monthly-almanac/face.html', viewer)).status).toBe(404);
  });
});

describe('how often an item was opened', () => {
  it('is counted for everybody together, but for bots, and can decide', async () => {
    const path = '/site/guides/double-cluster';
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'Much read',
      condition: { kind: 'test', attribute: 'item-views', op: 'at-least', values: [3] },
    });
    const heading: Node = {
      kind: 'heading',
      id: 'much-h',
      level: 2,
      content: [{ type: 'text', text: 'Much read' }],
    };
    const variants = [{ id: 'much-a', audience: audience.body.id, content: [heading] }];
    const slot: Node = { kind: 'slot', id: 'much', name: 'Much', variants, otherwise: [] };
    await change('guide', ({ content }) => ({ content: { ...content, body: [...content.body, slot] } }));
    await release('Much read');
    const shown = async (headers: Record<string, string> = {}) =>
      (await instance.visitor().call('GET', path, undefined, headers)).text.includes('Much read');
    for (let robot = 0; robot < 5; robot++) await shown({ 'user-agent': 'ExampleBot/1.0' });
    expect([await shown(), await shown(), await shown(), await shown()]).toEqual([false, false, false, true]);
    expect((await instance.visitor().get('/site/guides/star-chart')).text).not.toContain('Much read');
    // The canvas decides by the same counts.
    expect((await studio.get('/api/library')).body.views).toEqual({
      'guide-double-cluster': 4,
      'guide-star-chart': 1,
    });
  });
});

describe('the site’s menu', () => {
  const put = async (menu: unknown) => {
    const before = (await studio.get('/api/settings')).body;
    return studio.call('PUT', '/api/settings', { before, settings: { ...before, menu } });
  };

  it('says something else to each audience once it is released, and holds on to the audiences', async () => {
    const before = (await studio.get('/api/settings')).body;
    const audience = await studio.call('POST', '/api/audiences', {
      name: 'Of the menu',
      condition: { kind: 'test', attribute: 'tier', op: 'is-one-of', values: ['midnight'] },
    });
    const { id } = audience.body;
    const entry = {
      page: 'membership',
      variants: [{ audience: id, label: 'Your nights' }],
      otherwise: 'Join us',
    };
    expect((await put([entry, 'shop'])).status).toBe(200);
    const used = await studio.call('DELETE', `/api/audiences/${id}`);
    expect([used.status, used.body.message]).toEqual([409, expect.stringContaining('the site’s menu')]);
    await release('Another menu');
    const menuFor = async (visitor: Caller) =>
      /<nav class="site-menu"[^>]*>(.*?)<\/nav>/.exec((await visitor.get('/site/')).text)?.[1] ?? '';
    const noor = instance.visitor();
    await noor.call(
      'POST',
      '/site/sign-in',
      new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword }),
    );
    expect(await menuFor(noor)).toContain('Your nights');
    expect(await menuFor(instance.visitor())).toContain('Join us');
    expect(await menuFor(instance.visitor())).not.toContain('Your nights');
    // A page of the server's own has the same menu.
    expect((await noor.get('/site/search')).text).toContain('Your nights');

    expect((await put([{ ...entry, variants: [{ audience: 'never-was', label: '' }] }])).status).toBe(422);
    // As another version, or somebody with the database open, may leave it.
    const stored = (await SettingRow.findByPk('site'))?.value;
    const store = (value: unknown) =>
      inTransaction((transaction) => SettingRow.update({ value }, { where: { key: 'site' }, transaction }));
    const gone = { ...entry, variants: [{ audience: 'never-was', label: '' }] };
    await store({ ...before, menu: [gone] });
    const held = await release('A menu for nobody');
    expect([held.status, held.body.message]).toEqual([
      422,
      expect.stringContaining('an audience that was deleted'),
    ]);
    await store(stored);
    expect((await put([{ page: 3 }])).status).toBe(400);
    await put(before.menu);
    await studio.call('DELETE', `/api/audiences/${id}`);
    await release('The menu as it was');
  });
});

describe('the site’s own pages', () => {
  it('say what the settings say once that is released, and the usual words otherwise', async () => {
    const before = (await studio.get('/api/settings')).body;
    const visitor = instance.visitor();
    expect((await visitor.get('/site/sign-in')).text).toContain('<h1 class="heading">Sign in</h1>');
    const ownPages = {
      'sign-in': { title: 'Come in <b>', text: 'First line\n\nSecond & last' },
      'not-found': { title: 'Nothing here', text: '' },
      search: { title: 'Look around', text: 'What is it you look for?' },
    };
    const put = (wanted: unknown) =>
      studio.call('PUT', '/api/settings', { before, settings: { ...before, ownPages: wanted } });
    for (const bad of [{ 'sign-in': { title: ' ', text: '' } }, { elsewhere: { title: 'x', text: '' } }])
      expect((await put(bad)).status).toBe(400);
    expect((await put(ownPages)).status).toBe(200);
    expect((await visitor.get('/site/sign-in')).text).not.toContain('Come in');
    await release('Words of our own');
    const signIn = (await visitor.get('/site/sign-in')).text;
    expect(signIn).toContain('<title>Come in &lt;b&gt; · ');
    expect(signIn).toContain(
      '<h1 class="heading">Come in &lt;b&gt;</h1><p>First line</p><p>Second &amp; last</p>',
    );
    expect((await visitor.get('/site/search')).text).toContain('<h1 class="heading">Look around</h1><p>What');
    const missing = await visitor.get('/site/no-such-page');
    expect(missing.status).toBe(404);
    if (!before.notFoundPage) expect(missing.text).toContain('<h1 class="heading">Nothing here</h1>');
    const now = (await studio.get('/api/settings')).body;
    await studio.call('PUT', '/api/settings', { before: now, settings: before });
    await release('The usual words');
    expect((await visitor.get('/site/sign-in')).text).toContain('<h1 class="heading">Sign in</h1>');
  });
});

describe('a page in the menu', () => {
  it('stays there when its path changes, also below another entry', async () => {
    const before = (await studio.get('/api/settings')).body;
    const made = (
      await studio.call('POST', '/api/documents', { kind: 'page', name: 'Orchard', slug: 'orchard' })
    ).body;
    const menuOf = (path: string) => [
      path,
      { name: 'More', entries: [path, 'shop'], variants: [], otherwise: '' },
      { name: 'Elsewhere', address: '/site/orchard', variants: [], otherwise: '' },
    ];
    const settings = { ...before, menu: menuOf('orchard') };
    expect((await studio.call('PUT', '/api/settings', { before, settings })).status).toBe(200);
    const moved = await studio.call('PUT', `/api/documents/${made.id}`, {
      revision: made.revision,
      name: made.name,
      content: made.content,
      slug: 'old-orchard',
    });
    expect(moved.status).toBe(200);
    const now = (await studio.get('/api/settings')).body;
    expect(now.menu).toEqual(menuOf('old-orchard'));
    await studio.call('PUT', '/api/settings', { before: now, settings: before });
    await studio.call('DELETE', `/api/documents/${made.id}`);
  });
});

describe('a release', () => {
  it('is held back while something could be opened by nobody, or a notice is closed itself', async () => {
    const make = async (name: string) =>
      (await studio.call('POST', '/api/documents', { kind: 'page', name, slug: name.toLowerCase() })).body.id;
    const [notice, behind] = [await make('Noticeboard'), await make('Behind')];
    await change(behind, () => ({ access: { audience: 'any-member', otherwise: { page: notice } } }));
    expect((await release('With a notice')).status).toBe(201);
    const closed = await instance.visitor().get('/site/behind');
    expect([closed.status, closed.text.includes('<h1 class="heading">Noticeboard</h1>')]).toEqual([
      403,
      true,
    ]);
    expect((await studio.call('DELETE', `/api/documents/${notice}`)).status).toBe(409);
    await change(notice, () => ({ access: { audience: 'any-member', otherwise: 'sign-in' } }));
    const held = await release('A closed notice');
    expect([held.status, held.body.message]).toEqual([
      422,
      expect.stringContaining('not open to everybody itself'),
    ]);
    await change(notice, () => ({ access: null }));
    const piece = { kind: 'shared' as const, id: 'lost', document: 'nowhere' };
    await change(notice, ({ content }) => ({ content: { ...content, body: [piece] } }));
    expect((await release('A lost piece')).body.message).toContain('shared content is not chosen, or gone');
    await change(notice, ({ content }) => ({ content: { ...content, body: [] } }));
    expect((await studio.call('DELETE', '/api/audiences/any-member')).status).toBe(409);
  });
});

/** A picture of one pixel. */
const onePixel = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

describe('items from a file', () => {
  it('are tried first, then added and changed, and come out as they went in', async () => {
    const exported = (await studio.get('/api/collections/guides/export/csv')).text;
    const again = await studio.call('POST', '/api/collections/guides/import', {
      kind: 'csv',
      text: exported,
      apply: false,
    });
    expect(again.body).toEqual({ added: 0, changed: 0, unchanged: 5, problems: [], applied: false });
    const json = (await studio.get('/api/collections/guides/export/json')).text;
    const asJson = await studio.call('POST', '/api/collections/guides/import', {
      kind: 'json',
      text: json,
      apply: false,
    });
    expect(asJson.body).toMatchObject({ unchanged: 5, problems: [] });
    const text =
      'title,level,minutes to read,from\nNew guide,beginner,7,\n=SUM(A1),expert,x,\n,beginner,1,\nThird,wizard,2,\nFourth,,,when it snows\n"New guide",expert,,\n';
    const tried = await studio.call('POST', '/api/collections/guides/import', {
      kind: 'csv',
      text,
      apply: false,
    });
    expect(tried.body.added).toBe(1);
    expect(tried.body.problems.map(({ line }: { line: number }) => line)).toEqual([3, 4, 5, 6, 7]);
    await studio.call('POST', '/api/collections/guides/import', { kind: 'csv', text, apply: true });
    const items = (await studio.get('/api/collections/guides/items')).body;
    expect(items.at(-1)).toMatchObject({
      slug: 'new-guide',
      values: { 'guides-minutes': 7, 'guides-level': 'beginner' },
    });
  });

  it.each([
    ['csv', 'no head at all', 'there is no column “title”'],
    ['json', '{', 'is not JSON'],
    ['json', '{}', 'is not an array'],
    ['json', '[1]', 'is not an item'],
  ])('%s %j is refused in words', async (kind, text, message) => {
    const { body } = await studio.call('POST', '/api/collections/guides/import', { kind, text, apply: true });
    expect(body.problems[0].message).toContain(message);
    expect(body.added).toBe(0);
  });

  it('a file that is no picture is refused whatever it is called', async () => {
    const put = (bytes: Buffer) =>
      studio.call('POST', '/api/files?name=a.png', bytes, { 'content-type': 'application/octet-stream' });
    expect((await put(Buffer.from('<html><script>'))).status).toBe(422);
    expect((await put(Buffer.alloc(0))).status).toBe(422);
    expect((await put(Buffer.alloc(17 * 1024 * 1024))).status).toBe(413);
    // A picture of a kind that browsers don't show, which begins as a video does.
    expect((await put(Buffer.from('\0\0\0\x18ftypheic\0\0\0\0mif1heic', 'latin1'))).status).toBe(422);
    const made = await put(onePixel);
    expect(made.body.type).toBe('image/png');
    // Nobody gets a file that no page or item shows.
    expect((await instance.visitor().get(`/site/files/${made.body.id}`)).status).toBe(404);
  });

  it('a picture stands on a page with its size, turned as the camera was held', async () => {
    // A JPEG's frame says 3 by 2; Exif 2.32, tag 274, with the value 6 says that it is to be turned.
    const jpeg = (orientation: number) =>
      Buffer.from(
        `ffd8ffe1002245786966000049492a000800000001001201030001000000${orientation.toString(16).padStart(2, '0')}00000000000000ffc0000b080002000301011100ffd9`,
        'hex',
      );
    const put = async (name: string, bytes: Buffer) =>
      (
        await studio.call('POST', `/api/files?name=${name}`, bytes, {
          'content-type': 'application/octet-stream',
        })
      ).body.id;
    const files = {
      flat: await put('flat.jpg', jpeg(1)),
      upright: await put('upright.jpg', jpeg(6)),
      pixel: await put('pixel.png', onePixel),
      drawing: await put(
        'drawing.svg',
        Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"/>'),
      ),
      without: await put('without.svg', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>')),
    };
    const { body: page } = await studio.get('/api/documents/membership');
    const pictures = Object.values(files).map((file) => ({
      kind: 'picture',
      id: `of-${file}`,
      file,
      picture: 'moon',
      alt: '',
    }));
    const content = { ...page.content, body: [...pictures, ...page.content.body] };
    const { revision, name } = page;
    const saved = await studio.call('PUT', '/api/documents/membership', { revision, name, content });
    expect([saved.status, saved.text]).toEqual([200, expect.any(String)]);
    await release('Pictures');
    const { text } = await instance.visitor().get('/site/membership');
    const sizeOf = (file: string) => new RegExp(`src="/site/files/${file}" alt=""([^>]*)>`).exec(text)?.[1];
    expect(sizeOf(files.flat)).toBe(' width="3" height="2"');
    expect(sizeOf(files.upright)).toBe(' width="2" height="3"');
    expect(sizeOf(files.pixel)).toBe(' width="1" height="1"');
    expect(sizeOf(files.drawing)).toBe(' width="300" height="200" loading="lazy"');
    expect(sizeOf(files.without)).toBe(' loading="lazy"');
  });
});

describe('settings of the site', () => {
  it('are drafts until they are released, and overwrite nobody', async () => {
    const { body: before } = await studio.get('/api/settings');
    const theme = {
      ground: '#ffffff',
      ink: '#111111',
      accent: '#004488',
      onAccent: '#ffffff',
      panel: '#eeeeee',
      headings: 'serif',
      wideFrom: 700,
    };
    const settings = {
      ...before,
      name: 'Quillmere',
      theme,
      notFoundPage: 'membership',
      afterSignIn: 'welcome',
    };
    expect((await studio.call('PUT', '/api/settings', { before, settings })).status).toBe(200);
    expect((await studio.call('PUT', '/api/settings', { before, settings })).status).toBe(409);
    expect((await instance.visitor().get('/site/membership')).text).not.toContain('theme.css');
    await release('Another look');
    expect((await instance.visitor().get('/site/membership')).text).toContain('theme.css');
    expect((await instance.visitor().get('/site/theme.css')).text).toContain('--site-ground: #ffffff');
    const nowhere = await instance.visitor().get('/site/nowhere');
    expect([nowhere.status, nowhere.text.includes('<h1 class="heading">Membership</h1>')]).toEqual([
      404,
      true,
    ]);
    const entered = await instance
      .visitor()
      .call(
        'POST',
        '/site/sign-in',
        new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword }),
      );
    expect(entered.headers.get('location')).toBe('/site/welcome');
    for (const bad of [{ ground: 'red; } body { display: none' }, { wideFrom: 5 }, { headings: 'comic' }])
      expect(
        (
          await studio.call('PUT', '/api/settings', {
            before: settings,
            settings: { ...settings, theme: { ...theme, ...bad } },
          })
        ).status,
      ).toBe(400);
  });
});

describe('a form that anybody can send', () => {
  const survey = (caller: Caller, answers: Record<string, string>) =>
    formOf(caller, '/site/survey').then((action) =>
      caller.call('POST', action, new URLSearchParams(answers)),
    );

  it('answers an address that is known as one that is not, in all that can be seen', async () => {
    const outcomes = [];
    for (const email of ['noor.vale@example.org', 'nora.veil@example.org']) {
      const visitor = instance.visitor();
      const sent = await survey(visitor, { email, tags: 'sun' });
      const cookies = sent.headers
        .getSetCookie()
        .map((cookie) => cookie.replace(/=[^;]*/, (value) => `${value.length}`));
      const again = await survey(visitor, { tags: 'moon' });
      outcomes.push({
        status: sent.status,
        to: sent.headers.get('location'),
        text: sent.text,
        cookies: cookies.map((cookie) => cookie.replace(/Expires=[^;]*/, '')),
        next: (await visitor.get('/site/outcome')).text,
        home: (await visitor.get('/site/')).text,
        again: [again.status, again.headers.get('location'), again.headers.getSetCookie().length],
        long: (await survey(visitor, { tags: 'moon' })).headers.getSetCookie().length,
        after: (await visitor.get('/site/outcome')).text,
      });
    }
    expect(outcomes[0]).toEqual(outcomes[1]);
  });

  it('believes no answers that it did not seal', async () => {
    const visitor = instance.visitor();
    await survey(visitor, { email: 'sealed@example.org', tags: 'sun' });
    const cookie = /porch_answers=([^;]*)/.exec(visitor.cookieHeader.cookie)?.[1] ?? '';
    const outcome = async (value: string) =>
      (await instance.visitor().call('GET', '/site/outcome', undefined, { cookie: `porch_answers=${value}` }))
        .text;
    expect(await outcome(cookie)).toContain('The Sun it is');
    const at = Math.floor(cookie.length / 2);
    const changed = `${cookie.slice(0, at)}${cookie[at] === 'A' ? 'B' : 'A'}${cookie.slice(at + 1)}`;
    for (const bad of ['', 'x', changed, cookie.slice(0, 20), 'x'.repeat(5000)])
      expect(await outcome(bad)).toContain('Answer one question first');
  });

  it('takes nothing of what fills a field that nobody sees, and does not say so', async () => {
    const total = async () => (await studio.get('/api/contacts')).body.total;
    const before = await total();
    const visitor = instance.visitor();
    expect((await visitor.get('/site/survey')).text).toContain('name="leave-blank"');
    const sent = await survey(visitor, {
      email: 'robot@example.org',
      tags: 'sun',
      'leave-blank': 'https://x.example',
    });
    expect([sent.status, await total()]).toEqual([303, before]);
  });

  it('takes so many in a minute from one network, and no more', async () => {
    const action = await formOf(instance.visitor(), '/site/survey');
    const statuses = await Promise.all(
      Array.from({ length: 90 }, async (_, index) => {
        const answers = new URLSearchParams({ email: `crowd${index}@example.org`, tags: 'moon' });
        return (await instance.visitor().call('POST', action, answers)).status;
      }),
    );
    expect(statuses.filter((status) => status === 303).length).toBeLessThanOrEqual(60);
    expect(new Set(statuses)).toEqual(new Set([303, 429]));
    // Who is signed in is held back by nobody else.
    const noor = instance.visitor();
    const credentials = { email: 'noor.vale@example.org', password: demoSitePassword };
    await noor.call('POST', '/site/sign-in', new URLSearchParams(credentials));
    expect((await noor.call('POST', action, new URLSearchParams({ tags: 'moon' }))).status).toBe(303);
  });
});
