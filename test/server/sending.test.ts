import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { StoredDocument } from '../../contract/documents.ts';
import { test } from '../../core/conditions/condition.ts';
import { MailboxRow } from '../../server/standins/rows.ts';
import { type Caller, type Instance, importFile, sendEmail, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const send = (request: Parameters<typeof sendEmail>[1]) => sendEmail(studio, request);

describe('sending an email', () => {
  it('is refused where the email, the audience or a contact is not there', async () => {
    const before = await MailboxRow.count();
    const made: StoredDocument = (
      await studio.call('POST', '/api/documents', { kind: 'email', name: 'Not yet', slug: 'not-yet' })
    ).body;
    const audience = (
      await studio.call('POST', '/api/audiences', { name: 'Not yet', condition: test('tier', 'has-value') })
    ).body;
    for (const [request, status, message] of [
      [{ document: made.id, contacts: [1] }, 422, 'This email is not released yet'],
      [{ document: 'home', contacts: [1] }, 422, 'This email is not released yet'],
      [{ document: 'nowhere', contacts: [1] }, 422, 'This email is not released yet'],
      [{ audience: audience.id }, 422, 'This audience is not released yet'],
      [{ contacts: [1, 99_999] }, 404, ''],
    ] as const) {
      const refused = await send({
        ...request,
        contacts: [...('contacts' in request ? request.contacts : [])],
      });
      expect([request, refused.status, refused.body.message]).toEqual([
        request,
        status,
        expect.stringContaining(message),
      ]);
    }
    for (const bad of [{ contacts: ['one'] }, { document: 3 }])
      expect(
        (
          await studio.call('POST', '/api/sends', {
            document: 'monthly-almanac',
            contacts: [],
            audience: null,
            ...bad,
          })
        ).status,
      ).toBe(400);
    expect(
      (await instance.visitor().call('POST', '/api/sends', { document: 'monthly-almanac' })).status,
    ).toBe(401);
    expect(await MailboxRow.count()).toBe(before);
  });

  it('writes to who is chosen twice once, and tells whom it could not write to and why', async () => {
    await importFile(studio, 'email,First name\nstopped@example.org,Sam\nfine@example.org,Fay');
    const idOf = async (search: string): Promise<number> =>
      (await studio.get(`/api/contacts?search=${search}`)).body.contacts[0].id;
    const [stopped, fine] = [await idOf('stopped'), await idOf('fine@')];
    const contact = (await studio.get(`/api/contacts/${stopped}`)).body;
    const changed = await studio.call('PUT', `/api/contacts/${stopped}`, {
      values: {},
      mail: false,
      updatedAt: contact.updatedAt,
    });
    expect(changed.status).toBe(200);
    const report = await send({ contacts: [stopped, fine, fine] });
    expect([report.status, report.body]).toMatchObject([
      200,
      {
        isFinished: true,
        recipients: 2,
        sent: 1,
        refused: [{ email: 'stopped@example.org', reason: 'has stopped these emails' }],
      },
    ]);
    const [message, ...more] = (await studio.get('/api/mailbox?search=fine@example.org')).body;
    expect(more).toEqual([]);
    expect((await studio.get('/api/mailbox?search=stopped@example.org')).body).toEqual([]);
    const read = (await studio.get(`/api/mailbox/${message.id}`)).body;
    expect(read.from).toContain('Quillmere Observatory');
    const headers = Object.fromEntries(
      read.headers.map(({ name, value }: { name: string; value: string }) => [name.toLowerCase(), value]),
    );
    expect(headers['list-unsubscribe-post']).toBe('List-Unsubscribe=One-Click');
    expect((await studio.get('/api/mailbox/99999')).status).toBe(404);
  });

  it('stands in the history of who got it, and of who did not, with the reason', async () => {
    const people = ['got@example.org', 'did-not@example.org'];
    await importFile(studio, ['email', ...people].join('\n'));
    const [got, not] = await Promise.all(
      people.map(async (email) => (await studio.get(`/api/contacts?search=${email}`)).body.contacts[0]),
    );
    const { updatedAt } = (await studio.get(`/api/contacts/${not.id}`)).body;
    await studio.call('PUT', `/api/contacts/${not.id}`, { values: {}, mail: false, updatedAt });
    expect((await send({ contacts: [got.id, not.id] })).body.sent).toBe(1);
    const latest = async ({ id }: { id: number }) =>
      (await studio.get(`/api/contacts/${id}/history`)).body.find(({ email }: { email: unknown }) => email);
    expect(await latest(got)).toMatchObject({
      kind: 'email',
      by: 'Maya Brook',
      email: { document: 'monthly-almanac', name: 'Monthly almanac', refused: null },
    });
    expect((await latest(not)).email.refused).toBe('has stopped these emails');
  });

  it('is refused with the words of the mail server where a message is too large for it', async () => {
    const email: StoredDocument = (await studio.get('/api/documents/monthly-almanac')).body;
    const text = 'All about the sky of this month. '.repeat(60);
    const long = Array.from({ length: 450 }, (_, at) => ({
      kind: 'text' as const,
      id: `long${at}`,
      content: Array.from({ length: 8 }, () => ({
        type: 'paragraph' as const,
        content: [{ type: 'text' as const, text }],
      })),
    }));
    const saved = await studio.call('PUT', '/api/documents/monthly-almanac', {
      ...email,
      content: { ...email.content, body: long },
    });
    expect(saved.status).toBe(200);
    const { fingerprint } = (await studio.get('/api/releases/pending')).body;
    expect((await studio.call('POST', '/api/releases', { note: '', fingerprint })).status).toBe(201);
    const report = await send({ contacts: [1] });
    expect(report.body.sent).toBe(0);
    expect(report.body.refused[0].reason).toMatch(/^the mail server said: .*(too large|size|552)/i);
  });
});
