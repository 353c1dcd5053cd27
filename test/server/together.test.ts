import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AudienceVersion, StoredAudience } from '../../contract/audiences.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { AccountRow } from '../../server/team/rows.ts';
import { type Answer, type Instance, startInstance } from './instance.ts';

// Many at the same time: nobody waits for ever, and what holds for one after another holds for all at once.

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

const everybody: Condition = { kind: 'all', of: [] };
const post = (path: string, body: unknown): Promise<Answer> =>
  instance.studio.call('POST', `/api/${path}`, body);
const make = (name: string, condition: Condition = everybody) =>
  post('audiences', { name, description: '', condition, examples: [] });
const save = (audience: StoredAudience, condition: Condition) => {
  const { id, name, description, examples, revision } = audience;
  return instance.studio.call('PUT', `/api/audiences/${id}`, {
    name,
    description,
    condition,
    examples,
    revision,
  });
};
const statuses = (answers: readonly Answer[]) => answers.map(({ status }) => status).sort();

describe('at the same moment', () => {
  it('twenty audiences are saved, though there are fewer connections', async () => {
    const made = await Promise.all(Array.from({ length: 20 }, (_, index) => make(`Together ${index}`)));
    expect(statuses(made)).toEqual(Array(20).fill(201));
    const saved = await Promise.all(
      made.map(({ body }) => save(body, { kind: 'test', attribute: 'tier', op: 'has-value', values: [] })),
    );
    expect(statuses(saved)).toEqual(Array(20).fill(200));
  });

  it('one of several gets a name', async () => {
    const answers = await Promise.all(Array.from({ length: 6 }, () => make('The only one')));
    expect(statuses(answers)).toEqual([201, 422, 422, 422, 422, 422]);
    // As the database compares names, which knows no accents.
    expect((await make('The önly one')).status).toBe(422);
  });

  it('two audiences don’t come to build on each other', async () => {
    const [one, other] = [(await make('One')).body, (await make('Other')).body];
    const answers = await Promise.all([
      save(one, { kind: 'audience', audience: other.id }),
      save(other, { kind: 'audience', audience: one.id }),
    ]);
    expect(statuses(answers)).toEqual([200, 422]);
  });

  it('one page or collection gets an address', async () => {
    const answers = await Promise.all(
      Array.from({ length: 8 }, (_, index) =>
        index % 2 === 0
          ? post('documents', { kind: 'page', name: 'Talks', slug: 'talks' })
          : post('collections', { name: 'Talks', slug: 'talks' }),
      ),
    );
    expect(statuses(answers)).toEqual([201, ...Array(7).fill(422)]);
  });

  it('one item of a collection gets an address', async () => {
    const item = {
      slug: 'same',
      title: 'Same',
      teaser: '',
      values: {},
      access: null,
      from: null,
      until: null,
    };
    const answers = await Promise.all(
      Array.from({ length: 6 }, () => post('collections/guides/items', item)),
    );
    expect(statuses(answers)).toEqual([201, ...Array(5).fill(422)]);
  });

  it('one change of an attribute is stored, and the others are told', async () => {
    const attributes = (await instance.studio.get('/api/attributes')).body;
    const before = attributes.find(({ id }: { id: string }) => id === 'city');
    const answers = await Promise.all(
      Array.from({ length: 5 }, (_, index) =>
        instance.studio.call('PUT', '/api/attributes/city', {
          before,
          attribute: { ...before, description: `Changed ${index}` },
        }),
      ),
    );
    expect(statuses(answers)).toEqual([200, 409, 409, 409, 409]);
  });
});

describe('choices that become one', () => {
  it('leave a version of every audience that named the one that is gone', async () => {
    const attribute = {
      id: 'x',
      source: 'contact',
      label: 'hall',
      description: '',
      type: 'choice',
      ordered: false,
      choices: ['dome', 'roof', 'cellar'].map((id) => ({ id, label: id })),
    };
    const { id } = (await post('attributes', { attribute })).body;
    const named = (
      await make('In the dome', { kind: 'test', attribute: id, op: 'is-one-of', values: ['dome'] })
    ).body;
    const before: AudienceVersion[] = (await instance.studio.get(`/api/audiences/${named.id}/versions`)).body;
    const merged = await Promise.all(
      ['roof', 'cellar'].map((into) => post(`attributes/${id}/merge-choices`, { from: 'dome', into })),
    );
    expect(statuses(merged)).toEqual([200, 409]);
    const after: AudienceVersion[] = (await instance.studio.get(`/api/audiences/${named.id}/versions`)).body;
    expect(after).toHaveLength(before.length + 1);
    const [latest] = after;
    expect(latest?.condition).toMatchObject({ values: [expect.stringMatching(/roof|cellar/)] });
    expect(latest?.accountName).toBe('Maya Brook');
  });

  it('are refused where a form offers the one, with where', async () => {
    const stored = (await instance.studio.get('/api/documents/home')).body;
    const form = {
      kind: 'form',
      id: 'choose-one',
      name: 'Which',
      fields: [{ attribute: 'tier', label: '', required: false, only: ['dusk'] }],
      submit: 'Send',
      next: '',
    };
    const body = [...stored.content.body, form];
    const saved = await instance.studio.call('PUT', '/api/documents/home', {
      ...stored,
      content: { ...stored.content, body },
    });
    expect([saved.status, saved.text]).toEqual([200, saved.text]);
    const refused = await post('attributes/tier/merge-choices', { from: 'dusk', into: 'twilight' });
    expect([refused.status, refused.body.message]).toEqual([
      409,
      expect.stringContaining(`“${stored.name}” names`),
    ]);
  });
});

describe('an attribute that the CRM fills', () => {
  it('is in use', async () => {
    const { settings } = (await instance.studio.get('/api/crm')).body;
    await instance.studio.call('PUT', '/api/crm', {
      ...settings,
      fields: { ...settings.fields, town: 'city' },
    });
    const { uses } = (await instance.studio.get('/api/attributes/city/profile')).body;
    expect(uses).toContainEqual({ what: 'crm', id: 'crm', name: 'the fields of your CRM' });
    const refused = await instance.studio.call('DELETE', '/api/attributes/city');
    expect([refused.status, refused.body.message]).toEqual([
      409,
      expect.stringContaining('the fields of your CRM'),
    ]);
  });
});

describe('a query within a transaction that is no part of it', () => {
  it('fails while the program is being made, and is told apart from those that are', async () => {
    await expect(inTransaction(() => AccountRow.count())).rejects.toThrow('no part of it');
    expect(await inTransaction((transaction) => AccountRow.count({ transaction }))).toBeGreaterThan(0);
    expect(await AccountRow.count()).toBeGreaterThan(0);
  });
});
