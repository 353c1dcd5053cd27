import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { test } from '../../core/conditions/condition.ts';
import { type Caller, type Instance, importThat, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
});
afterAll(() => instance.stop());

const stored = () =>
  instance.sequelize.query<{ id: number; values: object }>('SELECT id, `values` FROM contacts ORDER BY id', {
    type: QueryTypes.SELECT,
  });
const count = async (...condition: Parameters<typeof test>): Promise<number> =>
  (
    await studio.call('POST', '/api/audiences/count', {
      condition: { kind: 'all', of: [test(...condition)] },
      audience: null,
    })
  ).body.count;
const tried = async (body: unknown) => {
  const answer = await studio.call('POST', '/api/contacts/changes', body);
  expect(answer.status, answer.text).toBe(201);
  return importThat(studio, answer.body.id, 'checked');
};
const done = async (id: number) => {
  expect((await studio.call('POST', `/api/imports/${id}/run`)).status).toBe(202);
  return importThat(studio, id, 'imported');
};

describe('changing many contacts at once', () => {
  it('shows what would change, does it to whoever a filter found, and takes it back', async () => {
    const before = await stored();
    const inMidnight = await count('tier', 'is-one-of', 'midnight');
    expect(inMidnight).toBeGreaterThan(100);
    const query = { where: JSON.stringify(test('tier', 'is-one-of', 'midnight')) };
    const change = { how: 'add', attribute: 'tags', members: ['family'] };
    const trial = await tried({ change, query });
    expect(trial).toMatchObject({ change, plan: null, survey: null });
    const { report } = trial;
    expect(report).toMatchObject({ rows: inMidnight, added: 0, rejected: 0 });
    expect((report?.changed ?? 0) + (report?.unchanged ?? 0)).toBe(inMidnight);
    expect(report?.samples.changed[0]?.fields.tags?.[1]).toContain('family');
    expect(await stored()).toEqual(before);

    await done(trial.id);
    const after = (await studio.get(`/api/contacts?import=${trial.id}`)).body;
    expect(after.matching).toBe(report?.changed);
    for (const { values } of after.contacts) expect(values).toMatchObject({ tier: 'midnight' });
    const both = {
      kind: 'all',
      of: [test('tier', 'is-one-of', 'midnight'), test('tags', 'includes-any', 'family')],
    };
    const counted = await studio.call('POST', '/api/audiences/count', { condition: both, audience: null });
    expect(counted.body.count).toBe(inMidnight);
    const [first] = after.contacts;
    const history = (await studio.get(`/api/contacts/${first.id}/history`)).body;
    expect(history[0]).toMatchObject({
      kind: 'changed',
      source: 'together',
      file: { id: trial.id, name: expect.stringContaining('added to') },
    });

    await studio.call('POST', `/api/imports/${trial.id}/undo`);
    const undone = await importThat(studio, trial.id, 'undone');
    expect(undone.report?.undone).toMatchObject({ removed: 0, restored: report?.changed, kept: 0 });
    expect(await stored()).toEqual(before);
  });

  it('changes those who are named, though a query is given too, and keeps what was changed since', async () => {
    const ids = [3, 5, 8];
    const { id, report } = await tried({
      change: { how: 'set', attribute: 'visits', value: 77 },
      ids,
      query: { search: 'nobody is called that' },
    });
    expect(report).toMatchObject({ rows: 3, changed: 3 });
    await done(id);
    expect(await count('visits', 'equals', 77)).toBe(3);
    const { body: one } = await studio.get('/api/contacts/5');
    await studio.call('PUT', '/api/contacts/5', { values: { visits: 78 }, updatedAt: one.updatedAt });
    await studio.call('POST', `/api/imports/${id}/undo`);
    expect((await importThat(studio, id, 'undone')).report?.undone).toMatchObject({ restored: 2, kept: 1 });
    expect((await studio.get('/api/contacts/5')).body.values.visits).toBe(78);
    // Once more, of the same people.
    expect((await studio.call('POST', `/api/imports/${id}/again`)).status).toBe(200);
    expect((await importThat(studio, id, 'checked')).report).toMatchObject({ rows: 3, changed: 3 });
    await done(id);
    await studio.call('POST', `/api/imports/${id}/undo`);
    expect((await importThat(studio, id, 'undone')).report?.undone).toMatchObject({ restored: 3, kept: 0 });
    expect((await studio.get('/api/contacts/5')).body.values.visits).toBe(78);
  });

  it('is refused in words where the change or the people are none', async () => {
    const refused = async (body: unknown) => {
      const { status, body: answer } = await studio.call('POST', '/api/contacts/changes', body);
      return [status, answer.message];
    };
    const [, attribute] = await refused({ change: { how: 'clear', attribute: 'nothing' }, ids: [3] });
    expect(attribute).toBe('“nothing” is no attribute any more.');
    const clear = { how: 'clear', attribute: 'visits' };
    expect(await refused({ change: clear })).toEqual([422, 'There is nobody to change.']);
    expect(await refused({ change: clear, query: { search: 'zzqqzz' } })).toEqual([
      422,
      'There is nobody to change.',
    ]);
    expect((await refused({ change: { how: 'set', attribute: 'visits', value: 2.5 }, ids: [3] }))[0]).toBe(
      422,
    );
    expect((await refused({ change: { how: 'add', attribute: 'tags', members: [] }, ids: [3] }))[0]).toBe(
      400,
    );
    expect((await refused({ change: clear, query: { where: '{' } }))[0]).toBe(400);
  });

  it('does nothing once the attribute has become another', async () => {
    const made = { source: 'contact', description: '', label: 'Shoe', id: 'shoe', type: 'text' };
    expect((await studio.call('POST', '/api/attributes', { attribute: made })).status).toBe(201);
    const { id } = await tried({ change: { how: 'set', attribute: 'shoe', value: 'boot' }, ids: [3] });
    expect((await studio.call('DELETE', '/api/attributes/shoe')).status).toBe(204);
    const run = await studio.call('POST', `/api/imports/${id}/run`);
    expect([run.status, run.body.message]).toEqual([422, '“The attribute” is gone.']);
    expect((await studio.get('/api/contacts/3')).body.values).not.toHaveProperty('shoe');
  });
});
