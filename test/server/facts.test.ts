import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ListedFact } from '../../contract/facts.ts';
import { all, any, inAudience, not, test } from '../../core/conditions/condition.ts';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const counted = async (condition: object) =>
  (await studio.call('POST', '/api/audiences/count', { condition, audience: null })).body;
const facts = async (): Promise<ListedFact[]> => (await studio.get('/api/facts')).body;

describe('facts about the contacts', () => {
  const who = test('plan', 'has-value');
  const also = test('stage', 'is-one-of', 'member', 'patron');

  it('are stated, with who breaks them counted, changed against the revision seen, and taken back', async () => {
    const before = (await facts()).length;
    const { status, body } = await studio.call('POST', '/api/facts', { who, also });
    expect(status).toBe(201);
    const stated = (await facts()).find(({ id }) => id === body.id);
    expect(stated).toMatchObject({ who, also, revision: 1, problems: [], accountName: 'Maya Brook' });
    expect(stated?.about).toBe((await counted(who)).count);
    expect(stated?.breaking).toBe((await counted(all(who, not(also)))).count);
    expect(stated?.breaking).toBeGreaterThan(0);

    const wider = { who, also: any(also, test('stage', 'has-no-value')), revision: 1 };
    expect((await studio.call('PUT', `/api/facts/${body.id}`, wider)).status).toBe(204);
    const late = await studio.call('PUT', `/api/facts/${body.id}`, wider);
    expect([late.status, late.body.current.revision]).toEqual([409, 2]);
    expect((await facts()).find(({ id }) => id === body.id)?.breaking).toBe(0);

    expect((await studio.call('DELETE', `/api/facts/${body.id}`)).status).toBe(204);
    expect((await studio.call('DELETE', `/api/facts/${body.id}`)).status).toBe(404);
    expect(await facts()).toHaveLength(before);
  });

  it.each([
    ['an attribute there is not', { who: test('gone', 'has-value'), also }, /attribute that is gone/],
    ['an audience', { who: inAudience('any-member'), also }, /names an audience/],
    ['the visit', { who, also: test('visit-device', 'is-one-of', 'phone') }, /device, which no contact/],
    ['nothing at all', {}, /./],
  ])('are refused about %s', async (_what, draft, message) => {
    const { status, body } = await studio.call('POST', '/api/facts', draft);
    expect([400, 422]).toContain(status);
    expect(body.message).toMatch(message);
  });

  it('hold on to the attributes and choices that they name', async () => {
    const fact = { who: test('language', 'is-one-of', 'german'), also: test('country', 'has-value') };
    const { body } = await studio.call('POST', '/api/facts', fact);
    const refused = await studio.call('DELETE', '/api/attributes/language');
    expect([refused.status, refused.body.message]).toEqual([409, expect.stringContaining('a data rule')]);
    // Two choices made one are one in the fact too.
    await studio.call('POST', '/api/attributes/language/merge-choices', { from: 'german', into: 'french' });
    const now = (await facts()).find(({ id }) => id === body.id);
    expect(now?.who).toEqual(test('language', 'is-one-of', 'french'));
    expect(now?.revision).toBe(2);
    await studio.call('DELETE', `/api/facts/${body.id}`);
  });
});

describe('what is so among today’s contacts', () => {
  const today = async (condition: object) => (await counted(condition)).today;

  it('is that nobody is in it, with what would loosen it least', async () => {
    const condition = all(test('visits', 'at-least', 100_000), test('tier', 'is-one-of', 'dusk'));
    const [finding] = await today(condition);
    expect(finding.kind).toBe('nobody-today');
    expect(finding.repairs.length).toBe(1);
    const [repair] = finding.repairs;
    const left = await counted(repair.condition);
    expect(left.count).toBeGreaterThan(0);
    expect(repair.label).toBe('Remove “visits this year is at least 100,000”');
    // Whoever comes in by it can be counted before it is done.
    expect((await counted(repair.joins)).count).toBe(left.count);
    expect(repair.leaves).toBeNull();
    expect(left.today.map(({ kind }: { kind: string }) => kind)).not.toContain('nobody-today');
  });

  it('is that only people without a value are in it, until it says so', async () => {
    // Everybody with a tier has one of the three: “not” leaves those who have none.
    const condition = all(
      test('stage', 'is-one-of', 'newcomer'),
      not(test('tier', 'is-one-of', 'dusk', 'twilight', 'midnight')),
    );
    const found = await counted(condition);
    const finding = found.today.find(({ kind }: { kind: string }) => kind === 'only-lacking');
    expect(finding.sentence).toContain(
      `all ${found.count.toLocaleString('en-GB')} people have no membership tier`,
    );
    const [repair] = finding.repairs;
    const after = await counted(repair.condition);
    expect(after.count).toBe(found.count);
    expect(after.today.map(({ kind }: { kind: string }) => kind)).not.toContain('only-lacking');
  });

  it('is that the people are those of another audience, or some of them', async () => {
    const kinds = async (condition: object) =>
      (await today(condition)).map(({ kind, sentence }: { kind: string; sentence: string }) => [
        kind,
        sentence,
      ]);
    const [first] = await kinds(all(test('tier', 'is-one-of', 'midnight'), test('email', 'has-value')));
    expect(first[0]).toBe('same-today');
    expect(first[1]).toContain('“Midnight members”, among today’s contacts only');
    const staff = all(test('tier', 'is-one-of', 'midnight'), test('visits', 'at-least', 3));
    expect(await kinds(staff)).toEqual([
      ['contained-today', 'Everybody in it is in “Midnight members” too, among today’s contacts only.'],
    ]);
  });
});

describe('audiences belong to somebody', () => {
  it('who makes one first, and whoever it is given to after', async () => {
    const made = await studio.call('POST', '/api/audiences', { name: 'Owned', condition: all() });
    expect(made.body.ownerName).toBe('Maya Brook');
    expect((await studio.get('/api/team')).body).toContain('Maya Brook');
    await studio.call('POST', `/api/audiences/${made.body.id}/owner`, { ownerName: 'Theo Lund' });
    const listed = (await studio.get('/api/audiences')).body.find(
      ({ id }: { id: string }) => id === made.body.id,
    );
    expect([listed.ownerName, listed.accountName]).toEqual(['Theo Lund', 'Maya Brook']);
    expect((await studio.call('POST', '/api/audiences/gone/owner', { ownerName: 'X' })).status).toBe(404);
    expect(
      (await studio.call('POST', `/api/audiences/${made.body.id}/owner`, { ownerName: ' ' })).status,
    ).toBe(400);
  });
});

describe('an export of ticked people', () => {
  it('holds those and nobody else, in every form', async () => {
    const { contacts } = (await studio.get('/api/contacts?search=')).body;
    const ids = [contacts[3].id, contacts[1].id];
    for (const kind of ['csv', 'vcard', 'json-lines']) {
      const { text } = await studio.get(`/api/contacts/export?kind=${kind}&ids=${ids.join(',')}`);
      expect(text).toContain(contacts[3].email);
      expect(text).toContain(contacts[1].email);
      expect(text).not.toContain(contacts[2].email);
      expect(text.split('@example').length - 1).toBe(2);
    }
    expect((await studio.get('/api/contacts/export?kind=csv&ids=1,x')).status).toBe(400);
  });
});
