import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { all, inAudience, test } from '../../core/conditions/condition.ts';
import type { Node } from '../../core/documents/document.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

describe('who may call', () => {
  it.each([
    ['GET', '/api/attributes'],
    ['GET', '/api/crm'],
    ['PUT', '/api/crm'],
    ['POST', '/api/crm/sync'],
    ['PUT', '/api/crm/stand-in'],
    ['GET', '/api/attributes/tier/values'],
    ['GET', '/api/attributes/tier/profile'],
    ['PUT', '/api/attributes/tier'],
    ['DELETE', '/api/attributes/tier'],
    ['POST', '/api/attributes/tier/merge-choices'],
    ['GET', '/api/contacts/export?kind=csv'],
    ['PUT', '/api/contacts/1'],
    ['DELETE', '/api/contacts/1'],
    ['GET', '/api/contacts/1/history'],
    ['POST', '/api/contacts/1/merge'],
    ['GET', '/api/settings'],
    ['GET', '/api/pictures'],
    ['GET', '/api/contacts'],
    ['GET', '/api/contacts/1'],
    ['POST', '/api/imports?name=people.csv'],
    ['GET', '/api/imports/1/left-out.csv'],
    ['GET', '/api/audiences'],
    ['POST', '/api/audiences'],
    ['POST', '/api/audiences/count'],
    ['PUT', '/api/audiences/any-member'],
    ['DELETE', '/api/audiences/any-member'],
    ['GET', '/api/documents'],
    ['POST', '/api/documents'],
    ['POST', '/api/documents/cast'],
    ['GET', '/api/documents/home'],
    ['PUT', '/api/documents/home'],
    ['DELETE', '/api/documents/home'],
    ['GET', '/api/releases'],
    ['GET', '/api/releases/pending'],
    ['POST', '/api/releases'],
    ['POST', '/api/releases/1/live'],
    ['GET', '/api/mailbox'],
    ['GET', '/api/mailbox/1'],
    ['GET', '/api/mailbox/1/message.eml'],
    ['POST', '/api/sends'],
  ])('%s %s refuses those who are not signed in', async (method, path) => {
    const answer = await instance.visitor().call(method, path, method === 'GET' ? undefined : {});
    expect(answer.status).toBe(401);
  });

  it('is asked before what they sent is read, which may be large or no JSON at all', async () => {
    const visitor = instance.visitor();
    for (const path of ['/api/documents/cast', '/api/audiences', '/api/documents/from-html', '/api/nowhere'])
      for (const body of ['{"a":', `${'['.repeat(200_000)}${']'.repeat(200_000)}`])
        expect((await visitor.call('POST', path, body)).status).toBe(401);
    const long = JSON.stringify({ email: 'x'.repeat(20_000), password: 'x' });
    expect((await visitor.call('POST', '/api/session', long)).status).toBe(413);
    expect((await studio.call('POST', '/api/audiences', `"${'x'.repeat(3_000_000)}"`)).status).toBe(413);
    // What may be long is taken as long as its schema says.
    for (const path of ['/api/documents/from-html', '/api/collections/guides/import'])
      expect((await studio.call('POST', path, JSON.stringify({ text: 'x'.repeat(4_000_000) }))).status).toBe(
        400,
      );
  });

  it('refuses a wrong password and an unknown account with the same words', async () => {
    const visitor = instance.visitor();
    const wrong = await visitor.call('POST', '/api/session', { email: 'maya@example.org', password: 'x' });
    const unknown = await visitor.call('POST', '/api/session', { email: 'no@example.org', password: 'x' });
    expect([wrong.status, unknown.status]).toEqual([401, 401]);
    expect(wrong.body).toEqual(unknown.body);
  });

  it('shows the demo account on a demo instance, and not to who is signed in', async () => {
    expect((await instance.visitor().get('/api/session')).body.demo.email).toBe('maya@example.org');
    expect((await studio.get('/api/session')).body).toMatchObject({
      account: { name: 'Maya Brook' },
      demo: null,
      firstStart: false,
    });
  });

  it('ends a session at sign-out, also for a copy of its cookie', async () => {
    const caller = await instance.visitor().signIn();
    expect((await caller.get('/api/audiences')).status).toBe(200);
    await caller.call('DELETE', '/api/session');
    expect((await caller.get('/api/audiences')).status).toBe(401);
  });

  it('keeps the session cookie from scripts and other sites', async () => {
    const answer = await instance.visitor().call('POST', '/api/session', {
      email: 'maya@example.org',
      password: 'look-up-tonight',
    });
    expect(answer.headers.get('set-cookie')).toMatch(/HttpOnly; SameSite=Lax/);
  });

  it.each<Record<string, string>>([{ origin: 'https://other.example' }, { 'sec-fetch-site': 'cross-site' }])(
    'refuses a change that another site asks for: %j',
    async (headers) => {
      const answer = await studio.call('DELETE', '/api/documents/home', undefined, headers);
      expect(answer.status).toBe(403);
      expect((await studio.get('/api/documents/home')).status).toBe(200);
    },
  );

  it('sends a strict Content-Security-Policy and no hint of its make', async () => {
    const { headers } = await instance.visitor().get('/');
    expect(headers.get('content-security-policy')).toContain("default-src 'self'");
    expect(headers.get('content-security-policy')).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline/);
    expect(headers.get('x-powered-by')).toBeNull();
  });
});

describe('bad requests', () => {
  it.each([
    ['POST', '/api/audiences', { name: 'x' }, 'condition'],
    ['POST', '/api/audiences', { name: '  ', condition: all() }, 'name'],
    ['POST', '/api/audiences', { name: 'x', condition: { kind: 'perhaps' } }, 'condition.kind'],
    ['PUT', '/api/documents/home', { revision: 1, name: 'x', content: { body: [] } }, 'content.subject'],
    ['POST', '/api/sends', { document: 'monthly-almanac', contacts: [], audience: null }, 'contacts'],
    ['POST', '/api/documents', { kind: 'page', name: 'x', slug: '../x' }, 'slug'],
    ['GET', '/api/contacts?page=-1', undefined, 'page'],
    ['GET', '/api/contacts?where=nonsense', undefined, 'where'],
  ])('%s %s %j answers 400 with the path of the field', async (method, path, body, field) => {
    const answer = await studio.call(method, path, body);
    expect(answer.status).toBe(400);
    expect(answer.body.fields[0].path).toBe(field);
  });

  it.each([
    ['GET', '/api/contacts/999999'],
    ['GET', '/api/documents/nowhere'],
    ['DELETE', '/api/audiences/nobody'],
    ['GET', '/api/mailbox/999999'],
    ['POST', '/api/releases/999999/live'],
    ['GET', '/api/attributes/gone/values'],
    ['GET', '/api/nothing'],
  ])('%s %s answers 404', async (method, path) => {
    expect((await studio.call(method, path)).status).toBe(404);
  });

  it('answers a body that is no JSON, or none', async () => {
    const json = { 'content-type': 'application/json' };
    expect((await studio.call('POST', '/api/audiences', '{"name":', json)).status).toBe(400);
    expect((await studio.call('POST', '/api/audiences')).status).toBe(400);
  });

  it('answers a text that ends in the middle of a character, and takes whole ones however they are written', async () => {
    const name = (written: string) =>
      studio.call('POST', '/api/audiences', `{"name":"${written}","condition":{"kind":"all","of":[]}}`);
    for (const half of ['\\ud83d', '\\uDD2D', 'a \\ud83d b', '\\ud83d\\ud83d\\udd2d'])
      expect((await name(half)).status).toBe(400);
    const whole = await name('Watchers \\ud83d\\udd2d');
    expect([whole.status, whole.body.name]).toEqual([201, 'Watchers 🔭']);
    const plain = await name('A backslash \\\\ud83d');
    expect(plain.status).toBe(201);
    for (const { body } of [whole, plain]) await studio.call('DELETE', `/api/audiences/${body.id}`);
  });

  it('answers a condition nested 10,000 deep', async () => {
    const deep = `${'{"kind":"not","of":'.repeat(10_000)}{"kind":"all","of":[]}${'}'.repeat(10_000)}`;
    const body = `{"name":"deep","condition":${deep}}`;
    const answer = await studio.call('POST', '/api/audiences', body, { 'content-type': 'application/json' });
    expect([answer.status, answer.body.message]).toEqual([400, 'The body is nested too deep.']);
    const within = `${'{"kind":"not","of":'.repeat(220)}{"kind":"all","of":[]}${'}'.repeat(220)}`;
    const condition = await studio.call('POST', '/api/audiences', `{"name":"deep","condition":${within}}`);
    expect([condition.status, condition.body.fields[0].message]).toEqual([
      400,
      expect.stringContaining('nested deeper'),
    ]);
  });
});

describe('audiences', () => {
  const draft = (name: string, condition = all(test('tier', 'has-value'))) => ({ name, condition });

  it('are made, renamed, edited and deleted', async () => {
    const made = await studio.call('POST', '/api/audiences', draft('Brand new'));
    expect(made.status).toBe(201);
    const { id, revision } = made.body;
    const changed = await studio.call('PUT', `/api/audiences/${id}`, { ...draft('Renamed'), revision });
    expect(changed.body).toMatchObject({ name: 'Renamed', revision: revision + 1 });
    const listed = (await studio.get('/api/audiences')).body.find(
      (audience: { id: string }) => audience.id === id,
    );
    expect(listed).toMatchObject({ name: 'Renamed', count: 1438, uses: [] });
    expect((await studio.call('DELETE', `/api/audiences/${id}`)).status).toBe(204);
    expect((await studio.call('DELETE', `/api/audiences/${id}`)).status).toBe(404);
  });

  it('refuse a name that is taken, without regard to case', async () => {
    const answer = await studio.call('POST', '/api/audiences', draft('DUSK members'));
    expect(answer.status).toBe(422);
    expect(answer.body.message).toContain('Dusk members');
  });

  it('refuse to be deleted while in use, and list the uses', async () => {
    const answer = await studio.call('DELETE', '/api/audiences/renewing');
    expect(answer.status).toBe(409);
    expect(answer.body.message).toContain('audience “Regulars near renewal”');
    const page = await studio.call('DELETE', '/api/audiences/dusk-members');
    expect(page.body.message).toContain('page “Home”, email “Monthly almanac”');
  });

  it('refuse a circle and name it', async () => {
    const { revision } = (await studio.get('/api/audiences')).body.find(
      (audience: { id: string }) => audience.id === 'renewing',
    );
    const answer = await studio.call('PUT', '/api/audiences/renewing', {
      ...draft('Renewal within 30 days', all(inAudience('regulars-near-renewal'))),
      revision,
    });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toContain(
      '“Regulars near renewal” → “Renewal within 30 days” → “Regulars near renewal”',
    );
  });

  it('refuse a stale save with 409 and the newer revision', async () => {
    const { id, revision } = (await studio.call('POST', '/api/audiences', draft('Two tabs'))).body;
    await studio.call('PUT', `/api/audiences/${id}`, { ...draft('First tab'), revision });
    const second = await studio.call('PUT', `/api/audiences/${id}`, { ...draft('Second tab'), revision });
    expect(second.status).toBe(409);
    expect(second.body.current).toMatchObject({ name: 'First tab', revision: revision + 1 });
    await studio.call('DELETE', `/api/audiences/${id}`);
  });

  it('keep who changed them and how they were, and take a version up again', async () => {
    const { body: made } = await studio.call('POST', '/api/audiences', draft('Kept'));
    expect(made).toMatchObject({ accountName: 'Maya Brook', examples: [], archivedAt: null });
    const examples = [
      { contact: 1, name: 'Ines Marlow', isIn: true },
      { contact: null, name: 'An anonymous visitor', isIn: false },
    ];
    const { body: changed } = await studio.call('PUT', `/api/audiences/${made.id}`, {
      ...draft('Kept on'),
      examples,
      revision: made.revision,
    });
    expect(changed.examples).toEqual(examples);
    const { body: versions } = await studio.get(`/api/audiences/${made.id}/versions`);
    expect(versions.map(({ name }: { name: string }) => name)).toEqual(['Kept on', 'Kept']);
    await studio.call('DELETE', `/api/audiences/${made.id}`);
    expect((await studio.get(`/api/audiences/${made.id}/versions`)).body).toEqual([]);
  });

  it('are put away and taken back, unless they are in use', async () => {
    const { body: made } = await studio.call('POST', '/api/audiences', draft('Put away'));
    const archive = (id: string, archived: boolean) =>
      studio.call('POST', `/api/audiences/${id}/archive`, { archived });
    expect((await archive(made.id, true)).body.archivedAt).not.toBeNull();
    expect((await archive(made.id, false)).body.archivedAt).toBeNull();
    expect((await archive('midnight-members', true)).status).toBe(409);
    await studio.call('DELETE', `/api/audiences/${made.id}`);
  });

  it('say who comes and goes in thirty days, and how many they were when they went live', async () => {
    const condition = test('renewal', 'within-next', 30);
    const { body } = await studio.call('POST', '/api/audiences/over-time', { condition, audience: null });
    expect(body.days).toHaveLength(31);
    const sum = (key: string) =>
      body.days.reduce((total: number, day: Record<string, number>) => total + (day[key] ?? 0), 0);
    expect(body.days[30].count).toBe(body.days[0].count + sum('entering') - sum('leaving'));
    expect(sum('leaving')).toBeGreaterThan(10);
    for (const day of body.days) expect(day.comers.length).toBe(Math.min(20, day.entering));
    const broken = { condition: test('gone', 'is-yes'), audience: null };
    expect((await studio.call('POST', '/api/audiences/over-time', broken)).body).toEqual({ days: [] });
    const { body: list } = await studio.get('/api/audiences');
    for (const { count, liveCount } of list) expect(liveCount).toBe(count);
  });

  it('count a condition that is not saved, with names and gaps', async () => {
    const condition = all(test('tier', 'is-one-of', 'midnight'));
    const { body } = await studio.call('POST', '/api/audiences/count', { condition, audience: null });
    expect(body).toMatchObject({ count: 235, total: 2400, lacking: [{ attribute: 'tier', count: 962 }] });
    const { contacts, matching } = (
      await studio.get(`/api/contacts?where=${encodeURIComponent(JSON.stringify(condition))}`)
    ).body;
    expect(matching).toBe(235);
    for (const person of contacts) expect(person.values.tier).toBe('midnight');
  });

  it('say what is wrong with a condition instead of counting nobody', async () => {
    const condition = all(test('gone', 'has-value'));
    const { body } = await studio.call('POST', '/api/audiences/count', { condition, audience: null });
    expect(body.problems).toEqual([
      { path: 'of.0.attribute', message: 'names an attribute that is gone: “gone”' },
    ]);
    const circle = all(inAudience('regulars-near-renewal'));
    const found = await studio.call('POST', '/api/audiences/count', {
      condition: circle,
      audience: 'renewing',
    });
    expect(found.body.problems[0].message).toContain('builds on itself');
  });
});

describe('documents', () => {
  const heading = (text: string): Node => ({
    kind: 'heading',
    id: 'h',
    level: 1,
    content: [{ type: 'text', text }],
  });
  const content = (...body: Node[]) => ({ subject: [], preview: [], body });
  const make = async (slug: string) =>
    (await studio.call('POST', '/api/documents', { kind: 'page', name: slug, slug })).body;

  it('are saved whole, with a new revision', async () => {
    const { id, revision } = await make('saved');
    const change = { revision, name: 'Saved', content: content(heading('Hello')) };
    const saved = await studio.call('PUT', `/api/documents/${id}`, change);
    expect(saved.body).toMatchObject({ revision: revision + 1, name: 'Saved' });
    expect((await studio.get(`/api/documents/${id}`)).body.content).toEqual(change.content);
  });

  it('refuse a second tab’s older revision, and both texts are kept', async () => {
    const { id, revision } = await make('two-tabs');
    const save = (text: string) =>
      studio.call('PUT', `/api/documents/${id}`, { revision, name: 'x', content: content(heading(text)) });
    expect((await save('first')).status).toBe(200);
    const second = await save('second');
    expect(second.status).toBe(409);
    expect(JSON.stringify(second.body.current.content)).toContain('first');
    expect(second.body.current.revision).toBe(revision + 1);
  });

  it('let one of several saves at once through', async () => {
    const { id, revision } = await make('at-once');
    const answers = await Promise.all(
      Array.from({ length: 6 }, (_, index) =>
        studio.call('PUT', `/api/documents/${id}`, {
          revision,
          name: 'x',
          content: content(heading(`save ${index}`)),
        }),
      ),
    );
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409, 409, 409, 409, 409]);
  });

  it('refuse addresses that run scripts, and change nothing', async () => {
    const { id, revision } = await make('scripts');
    const bad: Node = { kind: 'button', id: 'b', label: [], address: 'javascript:alert(1)' };
    const answer = await studio.call('PUT', `/api/documents/${id}`, {
      revision,
      name: 'x',
      content: content(bad),
    });
    expect(answer.status).toBe(422);
    expect(answer.body.fields[0].path).toBe('b');
    expect((await studio.get(`/api/documents/${id}`)).body.revision).toBe(revision);
  });

  it('refuse an address on the site that is taken', async () => {
    const answer = await studio.call('POST', '/api/documents', {
      kind: 'page',
      name: 'x',
      slug: 'membership',
    });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toContain('Membership');
  });

  it('find somebody to look as for each audience, who gets that variant', async () => {
    const home = (await studio.get('/api/documents/home')).body;
    const { body } = await studio.call('POST', '/api/documents/cast', {
      content: home.content,
      instant: null,
    });
    const names = body.people.map((entry: { audience: string; person: { name: string } }) => [
      entry.audience,
      entry.person.name,
    ]);
    expect(names).toEqual([
      ['midnight-members', 'Noor Vale'],
      ['twilight-members', 'Ines Marlow'],
      ['dusk-members', 'Tobias Orrin'],
      ['no-tier', 'Ruth Pellow'],
      ['any-member', 'Ines Marlow'],
      ['regulars-near-renewal', 'Yara Addo-Finch'],
    ]);
    for (const slot of body.slots) {
      const sum = slot.outcomes.reduce(
        (total: number, outcome: { count: number }) => total + outcome.count,
        0,
      );
      expect(sum).toBe(2400);
    }
  });
});
