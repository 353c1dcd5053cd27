import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { StoredDocument } from '../../contract/documents.ts';
import type { Content, Node } from '../../core/documents/document.ts';
import { type Answer, type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const make = async (kind: string, name: string, slug = name.toLowerCase()): Promise<StoredDocument> => {
  const made = await studio.call('POST', '/api/documents', { kind, name, slug });
  expect(made.status).toBe(201);
  return made.body;
};
const put = async (id: string, part: Partial<StoredDocument>): Promise<Answer> => {
  const stored: StoredDocument = (await studio.get(`/api/documents/${id}`)).body;
  return studio.call('PUT', `/api/documents/${id}`, { ...stored, ...part });
};
const body = (...nodes: Node[]): Content => ({ subject: [], preview: [], body: nodes });
const piece = (document: string): Node => ({ kind: 'shared', id: `p-${document}`, document });
const heading = (text: string): Node => ({
  kind: 'heading',
  id: 'h',
  level: 2,
  content: [{ type: 'text', text }],
});

describe('pages, emails and shared content', () => {
  it('are listed with their slots and the audiences they need, their content left out', async () => {
    const { body: list } = await studio.get('/api/documents');
    const home = list.find(({ id }: { id: string }) => id === 'home');
    expect(home).toMatchObject({ kind: 'page', slug: '', slots: 3 });
    expect(home.audiences).toContain('midnight-members');
    expect(home).not.toHaveProperty('content');
    // What is set for all slots is needed too, though no slot has it.
    const page = await make('page', 'Listed');
    await put(page.id, { content: { ...page.content, audiences: ['educators'] } });
    const { body: after } = await studio.get('/api/documents');
    expect(after.find(({ id }: { id: string }) => id === page.id).audiences).toEqual(['educators']);
    const refused = await studio.call('DELETE', '/api/audiences/educators');
    expect([refused.status, refused.body.message]).toEqual([409, expect.stringContaining('Listed')]);
    await studio.call('DELETE', `/api/documents/${page.id}`);
  });

  it('begin with what their kind needs', async () => {
    const email = await make('email', 'Begun', 'begun');
    expect(email.content.subject).toHaveLength(1);
    expect(email.content.preview).toHaveLength(1);
    const page = await make('page', 'Begun', 'begun');
    expect([page.content.subject.length, page.content.preview.length, page.content.body.length]).toEqual([
      0, 0, 1,
    ]);
    for (const { id } of [email, page]) await studio.call('DELETE', `/api/documents/${id}`);
  });

  it('are duplicated under a name and a path that are free, with new ids throughout', async () => {
    const { body: home } = await studio.get('/api/documents/home');
    const names: string[] = [];
    for (const slug of ['home-copy', 'home-copy-2']) {
      const { status, body: copy } = await studio.call('POST', '/api/documents/home/duplicate');
      expect([status, copy.name, copy.slug]).toEqual([201, `${home.name} (copy)`, slug]);
      const idsOf = (text: string) => [...text.matchAll(/"id":"([^"]+)"/g)].map(([, id]) => id);
      const [own, theirs] = [home, copy].map(({ content }) => JSON.stringify(content.body));
      expect(own?.replace(/"id":"[^"]+"/g, '')).toBe(theirs?.replace(/"id":"[^"]+"/g, ''));
      const before = new Set(idsOf(own ?? ''));
      expect(idsOf(theirs ?? '').filter((id) => before.has(id) && !id?.startsWith('alt'))).toEqual([]);
      names.push(copy.id);
    }
    const closed = await make('page', 'x'.repeat(120), 'y'.repeat(80));
    await put(closed.id, { access: { audience: 'midnight-members', otherwise: 'sign-in' } });
    const { body: copy } = await studio.call('POST', `/api/documents/${closed.id}/duplicate`);
    expect([copy.name.length, copy.slug.length, copy.access.audience]).toEqual([120, 80, 'midnight-members']);
    expect((await studio.call('POST', '/api/documents/nothing/duplicate')).status).toBe(404);
    for (const id of [...names, closed.id, copy.id])
      expect((await studio.call('DELETE', `/api/documents/${id}`)).status).toBe(204);
  });

  it('keep the home page, which a site can’t be without', async () => {
    const { status, body: refused } = await studio.call('DELETE', '/api/documents/home');
    expect([status, refused.message]).toEqual([
      409,
      'The home page can’t be deleted. Give it another path first.',
    ]);
  });

  it('have addresses that only pages share with each other, and are gone once deleted', async () => {
    const page = await make('page', 'Twice');
    const again = await studio.call('POST', '/api/documents', { kind: 'page', name: 'x', slug: 'twice' });
    expect([again.status, again.body.fields]).toEqual([422, [{ path: 'slug', message: 'is taken' }]]);
    const email = await make('email', 'Twice');
    const other = await make('page', 'Other');
    expect((await put(other.id, { slug: 'twice' })).status).toBe(422);
    expect((await put(other.id, { slug: 'search' })).status).toBe(422);
    expect((await put(other.id, { slug: 'other' })).status).toBe(200);
    for (const { id } of [page, email, other]) {
      expect((await studio.call('DELETE', `/api/documents/${id}`)).status).toBe(204);
      expect((await studio.call('DELETE', `/api/documents/${id}`)).status).toBe(404);
      expect((await studio.get(`/api/documents/${id}`)).status).toBe(404);
    }
    expect((await studio.call('PUT', '/api/documents/nowhere', page)).status).toBe(404);
  });

  it('hold what their kind can, and are refused with the block that is wrong', async () => {
    const page = await make('page', 'Holding');
    const email = await make('email', 'Holding');
    const form: Node = { kind: 'form', id: 'f', fields: [], submit: 'Send', next: '' };
    const inMail = await put(email.id, { content: { ...email.content, body: [form] } });
    expect([inMail.status, inMail.body.fields]).toMatchObject([422, [{ path: 'f' }]]);
    const line: Node = { kind: 'line', id: 'l', content: [] };
    expect((await put(page.id, { content: body(line) })).status).toBe(422);
    expect((await put(page.id, { content: body(heading('a'), heading('b')) })).status).toBe(400);
    for (const bad of [{ body: 'x' }, { subject: [], preview: [] }, { ...body(), audiences: [''] }])
      expect((await put(page.id, { content: bad as unknown as Content })).status).toBe(400);
    for (const { id } of [page, email]) await studio.call('DELETE', `/api/documents/${id}`);
  });

  it('may not stand in themselves, through any number of pieces', async () => {
    const [one, two, three] = [
      await make('shared', 'One'),
      await make('shared', 'Two'),
      await make('shared', 'Three'),
    ];
    expect((await put(one.id, { content: body(piece(two.id)) })).status).toBe(200);
    expect((await put(two.id, { content: body(piece(three.id)) })).status).toBe(200);
    for (const [into, of] of [
      [three.id, one.id],
      [one.id, one.id],
    ] as const) {
      const circle = await put(into, { content: body(piece(of)) });
      expect(circle.status).toBe(422);
    }
    // What is used is kept, and says where.
    const kept = await studio.call('DELETE', `/api/documents/${three.id}`);
    expect([kept.status, kept.body.message]).toEqual([409, expect.stringContaining('“Two” uses this')]);
    const { body: pieces } = await studio.get('/api/documents/shared');
    expect(pieces.map(({ name }: { name: string }) => name)).toEqual(
      expect.arrayContaining(['One', 'Three', 'Two']),
    );
    for (const { id } of [one, two, three]) await studio.call('DELETE', `/api/documents/${id}`);
  });

  it('are kept while the site is set to show them', async () => {
    const page = await make('page', 'Set');
    const set = async (part: object) => {
      const before = (await studio.get('/api/settings')).body;
      return studio.call('PUT', '/api/settings', { before, settings: { ...before, ...part } });
    };
    for (const [part, back, message] of [
      [{ notFoundPage: page.id }, { notFoundPage: null }, 'not-found page'],
      [{ afterSignIn: page.id }, { afterSignIn: null }, 'after signing in'],
    ] as const) {
      expect((await set(part)).status).toBe(200);
      const kept = await studio.call('DELETE', `/api/documents/${page.id}`);
      expect([kept.status, kept.body.message]).toEqual([409, expect.stringContaining(message)]);
      await set(back);
    }
    expect((await studio.call('DELETE', `/api/documents/${page.id}`)).status).toBe(204);
    // Settings are overwritten by nobody who saw them as they were before.
    const old = (await studio.get('/api/settings')).body;
    await set({ name: 'Another name' });
    const late = await studio.call('PUT', '/api/settings', {
      before: old,
      settings: { ...old, name: 'Late' },
    });
    expect([late.status, late.body.current.name]).toEqual([409, 'Another name']);
    await set({ name: old.name });
    for (const bad of [
      { zone: 'Moon/Sea' },
      { name: '' },
      { fromAddress: 'nobody' },
      { theme: { ground: 'red' } },
    ])
      expect([bad, (await set(bad)).status]).toEqual([bad, 400]);
  });

  it('keep HTML from elsewhere without what could do harm', async () => {
    const page = await make('page', 'Harmless');
    const html =
      '<p onclick="x()">Kept</p><script>x()</script><style>p{}</style><iframe src="//e"></iframe><form><input></form><a href="javascript:x()">a</a><img src=x onerror=x()>';
    const saved = await put(page.id, { content: body({ kind: 'html', id: 'x', html }) });
    const [node] = saved.body.content.body;
    expect(node.html).toContain('Kept');
    expect(node.html).not.toMatch(/script|onclick|onerror|style|iframe|form|input/i);
    await studio.call('DELETE', `/api/documents/${page.id}`);
  });
});

describe('a page of HTML', () => {
  const bring = (html: string, slug = 'brought') =>
    studio.call('POST', '/api/documents/from-html', { name: 'Brought', slug, html });

  it('is made of what there is, unclosed or not, and what was left out is told', async () => {
    const answer = await bring(
      '<!doctype html><html><head><title>x</title><style>a{}</style></head><body><h1>Head<p>one<p>two<ul><li>a<li>b<table><tr><td>1<td>2</table><script>x()</script><script>y()</script>',
    );
    expect(answer.status).toBe(201);
    expect(answer.body.dropped).toEqual(
      expect.arrayContaining([{ what: expect.stringMatching(/script/i), count: 2 }]),
    );
    const { content }: StoredDocument = (await studio.get(`/api/documents/${answer.body.id}`)).body;
    const text = JSON.stringify(content);
    for (const kept of ['Head', 'one', 'two', '"a"', '"b"', '"1"', '"2"']) expect(text).toContain(kept);
    expect(text).not.toMatch(/x\(\)|y\(\)/);
    expect((await bring('<p>again')).status).toBe(422);
    await studio.call('DELETE', `/api/documents/${answer.body.id}`);
  });

  it('is refused where there is nothing in it, or too much', async () => {
    for (const html of ['', '  \n', '<script>x()</script><style>a{}</style>', '<!-- only this -->']) {
      const { status, body: told } = await bring(html, 'empty');
      expect([html, status, told.message]).toEqual([
        html,
        422,
        expect.stringContaining('There is nothing in it'),
      ]);
    }
    expect((await bring('x'.repeat(6_000_000), 'large')).status).toBe(400);
    const deep = await bring('<div>'.repeat(50_000), 'deep');
    expect([201, 422]).toContain(deep.status);
  });
});

describe('a release', () => {
  const release = async (note: string) => {
    const { fingerprint } = (await studio.get('/api/releases/pending')).body;
    return studio.call('POST', '/api/releases', { note, fingerprint });
  };
  const live = async (path: string) => (await instance.visitor().get(path)).text;

  it('is gone back to as it was, and the drafts stay as they are', async () => {
    const page = await make('page', 'Returning');
    await put(page.id, { content: body(heading('As it was')) });
    const first = await release('first');
    expect(first.status).toBe(201);
    await put(page.id, { content: body(heading('As it is')) });
    const second = await release('second');
    expect(await live('/site/returning')).toContain('As it is');
    const back = await studio.call('POST', `/api/releases/${first.body.id}/live`);
    expect(back.status).toBe(200);
    expect(await live('/site/returning')).toContain('As it was');
    expect(JSON.stringify((await studio.get(`/api/documents/${page.id}`)).body.content)).toContain(
      'As it is',
    );
    const { body: list } = await studio.get('/api/releases');
    const isLive = Object.fromEntries(
      list.map(({ id, live: is }: { id: number; live: boolean }) => [id, is]),
    );
    expect([isLive[first.body.id], isLive[second.body.id]]).toEqual([true, false]);
    expect((await studio.call('POST', '/api/releases/99999/live')).status).toBe(404);
    await studio.call('POST', `/api/releases/${second.body.id}/live`);
  });

  it('is made of what was listed, of something, and of nothing that must be mended', async () => {
    const { fingerprint } = (await studio.get('/api/releases/pending')).body;
    const nothing = await studio.call('POST', '/api/releases', { note: '', fingerprint });
    expect([nothing.status, nothing.body.message]).toEqual([422, expect.stringContaining('Nothing changed')]);
    const page = await make('page', 'Mended');
    const late = await studio.call('POST', '/api/releases', { note: '', fingerprint });
    expect([late.status, late.body.message]).toEqual([
      409,
      expect.stringContaining('Something changed after'),
    ]);
    for (const [node, message] of [
      [{ kind: 'button', id: 'b', label: [], address: '' }, 'has no address'],
      [{ kind: 'video', id: 'v', file: null, caption: '' }, 'has no file yet'],
      [{ kind: 'form', id: 'f', fields: [], submit: 'Send', next: '' }, 'A form has no field'],
      [
        {
          kind: 'form',
          id: 'f',
          fields: [{ attribute: 'never-was', label: '', required: false }],
          submit: 'Send',
          next: '',
        },
        'attribute that is gone',
      ],
      [
        {
          kind: 'slot',
          id: 's',
          name: 'S',
          variants: [{ id: 'v', audience: 'never-was', content: [] }],
          otherwise: [],
        },
        'deleted audience',
      ],
    ] as [Node, string][]) {
      expect((await put(page.id, { content: body(node) })).status).toBe(200);
      const held = await release('held');
      expect([held.status, held.body.message]).toEqual([422, expect.stringContaining(message)]);
      const { problems } = (await studio.get('/api/releases/pending')).body;
      expect(problems).toMatchObject([{ document: page.id, name: 'Mended' }]);
    }
    await put(page.id, { content: body(heading('Mended')) });
    expect((await release('mended')).status).toBe(201);
  });
});
