import { simpleParser } from 'mailparser';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { StoredDocument } from '../../contract/documents.ts';
import type { Content } from '../../core/documents/document.ts';
import { updateNode } from '../../core/documents/edit.ts';
import { words } from '../../core/documents/text.ts';
import { demoSitePassword } from '../../demo/scenario.ts';
import { addressProblem } from '../../server/people/address-problem.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Caller, type Instance, sendEmail, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const edit = async (id: string, change: (content: Content) => Content) => {
  const document: StoredDocument = (await studio.get(`/api/documents/${id}`)).body;
  const { revision, name, content } = document;
  return studio.call('PUT', `/api/documents/${id}`, { revision, name, content: change(content) });
};
const everyHeading = (text: string) => (content: Content) =>
  [...JSON.stringify(content).matchAll(/"kind":"heading","id":"(\w+)"/g)].reduce(
    (edited, [, id]) =>
      updateNode(edited, id ?? '', (node) =>
        node.kind === 'heading' ? { ...node, content: words(text) } : node,
      ),
    content,
  );
const release = async (note = '') => {
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  return studio.call('POST', '/api/releases', { note, fingerprint });
};
const signedIn = async (email: string): Promise<Caller> => {
  const visitor = instance.visitor();
  await visitor.call('POST', '/site/sign-in', new URLSearchParams({ email, password: demoSitePassword }));
  return visitor;
};

describe('the live site', () => {
  it('gives each viewer their own variant, and nothing of another’s', async () => {
    const own = {
      anonymous: ['Come and look up', 'Try Dusk for one month'],
      'tobias.orrin@example.org': ['Hello again, Tobias', 'Move up to Twilight'],
      'ines.marlow@example.org': ['Good evening, Ines', 'Bring a friend'],
      'noor.vale@example.org': ['The dome is yours tonight, Noor', 'Bring a friend'],
      'yara.addo-finch@example.org': ['Good evening, Yara', 'and keep your locker'],
      'ruth.pellow@example.org': ['Nice to see you, Ruth', 'Try Dusk for one month'],
    };
    const all = new Set(Object.values(own).flat());
    for (const [email, expected] of Object.entries(own)) {
      const visitor = email === 'anonymous' ? instance.visitor() : await signedIn(email);
      const { text, status } = await visitor.get('/site/');
      expect(status).toBe(200);
      for (const phrase of all)
        expect([email, phrase, text.includes(phrase)]).toEqual([email, phrase, expected.includes(phrase)]);
    }
  });

  it('tells caches that a face belongs to one person (RFC 9111, 5.2.2)', async () => {
    const noor = await signedIn('noor.vale@example.org');
    const own = await noor.get('/site/');
    expect(own.headers.get('cache-control')).toContain('private');
    expect(own.headers.get('vary')).toContain('Cookie');
    // What every signed-out visitor gets may be kept, to be asked about again, and never for who sends a cookie.
    const everybody = await instance.visitor().get('/site/membership');
    expect(everybody.headers.get('cache-control')).toBe('public, no-cache');
    expect(everybody.headers.get('vary')).toContain('Cookie');
    const again = await instance.visitor().call('GET', '/site/membership', undefined, {
      'if-none-match': everybody.headers.get('etag') ?? '',
      'cache-control': 'max-age=0',
    });
    expect([again.status, again.text]).toEqual([304, '']);
  });

  it('answers unknown addresses, wrong passwords and sign-out', async () => {
    expect((await instance.visitor().get('/site/nowhere')).status).toBe(404);
    expect((await instance.visitor().get('/site/nowhere/at/all')).status).toBe(404);
    const body = new URLSearchParams({ email: 'noor.vale@example.org', password: 'wrong' });
    const wrong = await instance.visitor().call('POST', '/site/sign-in', body);
    expect(wrong.status).toBe(401);
    expect(wrong.text).toContain('don’t match');
    // The address does not have to be typed again.
    expect(wrong.text).toContain('value="noor.vale@example.org"');
    const strange = new URLSearchParams({ email: '"><script>alert(1)</script>', password: 'wrong' });
    expect((await instance.visitor().call('POST', '/site/sign-in', strange)).text).not.toContain(
      '<script>alert',
    );
    const noor = await signedIn('noor.vale@example.org');
    await noor.call('POST', '/site/sign-out');
    expect((await noor.get('/site/')).text).toContain('Come and look up');
  });

  it('does not take the studio’s session for a site session, nor the other way round', async () => {
    expect((await studio.get('/site/')).text).toContain('Come and look up');
    const noor = await signedIn('noor.vale@example.org');
    expect((await noor.get('/api/contacts')).status).toBe(401);
  });

  it('refuses a sign-in that another site posts', async () => {
    const body = new URLSearchParams({ email: 'noor.vale@example.org', password: demoSitePassword });
    const answer = await instance
      .visitor()
      .call('POST', '/site/sign-in', body, { origin: 'https://other.example' });
    expect(answer.status).toBe(403);
  });
});

describe('releasing', () => {
  it('has nothing to release in a fresh demo', async () => {
    expect((await studio.get('/api/releases/pending')).body.changes).toEqual([]);
    expect((await release()).status).toBe(422);
  });

  it('keeps edits from the live site until they are released, and can go back', async () => {
    await edit('home', everyHeading('Edited heading'));
    expect((await instance.visitor().get('/site/')).text).not.toContain('Edited heading');
    const { changes } = (await studio.get('/api/releases/pending')).body;
    expect(changes).toHaveLength(1);
    expect(changes[0].details).toContain('Welcome banner: variant A reads differently');
    const made = await release('Try it');
    expect(made.status).toBe(201);
    expect(made.body).toMatchObject({ note: 'Try it', live: true, accountName: 'Maya Brook' });
    expect((await instance.visitor().get('/site/')).text).toContain('Edited heading');
    const back = await studio.call('POST', '/api/releases/1/live');
    expect(back.status).toBe(200);
    expect((await instance.visitor().get('/site/')).text).toContain('Come and look up');
    const listed = (await studio.get('/api/releases')).body.map((row: { id: number; live: boolean }) => [
      row.id,
      row.live,
    ]);
    expect(listed).toEqual([
      [made.body.id, false],
      [1, true],
    ]);
    await studio.call('POST', `/api/releases/${made.body.id}/live`);
  });

  it('refuses what changed after the list was made', async () => {
    await edit('membership', everyHeading('Seen'));
    const { fingerprint } = (await studio.get('/api/releases/pending')).body;
    await edit('membership', everyHeading('Not seen'));
    const answer = await studio.call('POST', '/api/releases', { note: '', fingerprint });
    expect(answer.status).toBe(409);
    expect((await instance.visitor().get('/site/membership')).text).not.toContain('Not seen');
    expect((await release()).status).toBe(201);
  });

  it('refuses a document that names what is gone, and says what to mend', async () => {
    const before: StoredDocument = (await studio.get('/api/documents/membership')).body;
    await edit('membership', (content) => ({
      ...content,
      body: [
        ...content.body,
        {
          kind: 'slot',
          id: 's9',
          name: 'Old',
          variants: [{ id: 'v9', audience: 'deleted', content: [] }],
          otherwise: [],
        },
        {
          kind: 'heading',
          id: 'h9',
          level: 2,
          content: [{ type: 'mergeField', attrs: { attribute: 'gone', fallback: '' } }],
        },
      ],
    }));
    const { problems } = (await studio.get('/api/releases/pending')).body;
    expect(problems.map((problem: { message: string }) => problem.message)).toEqual([
      '“Old” has a variant for a deleted audience',
      'A merge field names an attribute that is gone: “gone”',
    ]);
    expect((await release()).status).toBe(422);
    await edit('membership', () => before.content);
  });
});

describe('sending', () => {
  const send = (contacts: number[], audience: string | null = null) =>
    sendEmail(studio, { contacts, audience });
  const received = async (email: string) => {
    const { body } = await studio.get(`/api/mailbox?search=${encodeURIComponent(email)}`);
    const { text: raw, headers } = await studio.get(`/api/mailbox/${body[0].id}/message.eml`);
    return { raw, headers, mail: await simpleParser(raw), listed: body };
  };

  it('composes each message for its reader; each reads back whole (RFC 5322, RFC 2045-2047)', async () => {
    expect((await send([1, 2, 3])).body).toMatchObject({ sent: 3, refused: [] });
    const tiers = {
      'ines.marlow@example.org': 'Your hour at the dome',
      'tobias.orrin@example.org': 'Clear evenings on the terrace',
      'noor.vale@example.org': 'Your nights at the dome',
    };
    for (const [email, own] of Object.entries(tiers)) {
      const { mail, raw, headers } = await received(email);
      for (const phrase of Object.values(tiers)) {
        expect(String(mail.html).includes(phrase)).toBe(phrase === own);
        expect(mail.text?.includes(phrase)).toBe(phrase === own);
      }
      expect(mail.from?.value[0]).toEqual({ name: 'Quillmere Observatory', address: 'almanac@example.org' });
      expect([mail.to].flat()[0]?.value[0]?.address).toBe(email);
      expect(mail.messageId).toMatch(/^<[^@\s]+@[^@\s]+>$/);
      expect(mail.date).toBeInstanceOf(Date);
      // RFC 2369 and RFC 8058: a way out in the header, with one click.
      expect(raw).toMatch(/^List-Unsubscribe:\s*<http:\/\/127\.0\.0\.1:\d+\/site\/unsubscribe\?token=/im);
      expect(raw).toMatch(/^List-Unsubscribe-Post: List-Unsubscribe=One-Click/im);
      expect(raw.split('\r\n').every((line) => line.length <= 998)).toBe(true);
      expect(headers.get('content-type')).toContain('message/rfc822');
    }
    const { mail } = await received('noor.vale@example.org');
    expect(mail.subject).toBe('The dome is yours this month, Noor');
  });

  it('writes to everybody in an audience once', async () => {
    const { body } = await send([5], 'regulars-near-renewal');
    const size = (
      await studio.call('POST', '/api/audiences/count', {
        condition: { kind: 'audience', audience: 'regulars-near-renewal' },
        audience: null,
      })
    ).body.count;
    expect(body.sent).toBe(size);
    expect((await received('yara.addo-finch@example.org')).listed).toHaveLength(1);
  });

  it('stops mail to who asked for it, by the page and by one click (RFC 8058)', async () => {
    await send([4]);
    const { raw } = await received('ruth.pellow@example.org');
    const link = new URL(/^List-Unsubscribe:\s*<([^>]+)>/im.exec(raw)?.[1] ?? '');
    const visitor = instance.visitor();
    expect((await visitor.get(link.pathname + link.search)).text).toContain('Unsubscribe me');
    const oneClick = new URLSearchParams({ 'List-Unsubscribe': 'One-Click' });
    const headers = { origin: 'https://mail.example' };
    expect((await visitor.call('POST', link.pathname + link.search, oneClick, headers)).status).toBe(200);
    expect((await studio.get('/api/contacts/4')).body.unsubscribedAt).not.toBeNull();
    expect((await send([4])).body).toMatchObject({
      sent: 0,
      refused: [{ email: 'ruth.pellow@example.org', reason: 'has stopped these emails' }],
    });
    expect((await visitor.get('/site/unsubscribe?token=4.forged')).status).toBe(404);
    expect((await visitor.call('POST', '/site/unsubscribe?token=5.x', oneClick)).status).toBe(404);
  });

  it('refuses an address with a line break and sends the rest', async () => {
    const [row] = await ContactRow.findAll({ where: { id: 8 } });
    const email = 'x@example.org\r\nBcc: y@example.org';
    await inTransaction((transaction) => row?.update({ email }, { transaction }) ?? Promise.reject());
    const { body } = await send([8, 1]);
    expect(body.sent).toBe(1);
    expect(body.refused[0].reason).toContain('line break');
    expect((await studio.get('/api/mailbox?search=y@example')).body).toEqual([]);
  });

  it.each(['a b@example.org', 'a@b@example.org', 'a@example.org, b@example.org', '<a@example.org>', 'a', ''])(
    'does not take %j for an address',
    (email) => expect(addressProblem(email)).toBeDefined(),
  );

  it('sends only what is released', async () => {
    const made = (
      await studio.call('POST', '/api/documents', { kind: 'email', name: 'Draft', slug: 'draft' })
    ).body;
    const answer = await studio.call('POST', '/api/sends', {
      document: made.id,
      contacts: [1],
      audience: null,
    });
    expect(answer.status).toBe(422);
    expect(answer.body.message).toContain('not released');
    expect((await send([999_999])).status).toBe(404);
  });
});
