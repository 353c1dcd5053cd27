import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { listedAudienceSchema } from '../../contract/audiences.ts';
import { HeldPeople } from '../../server/people/held-people.ts';
import type { Scope } from '../../server/people/questions.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { accessOf } from '../../server/store/connection.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Instance, startInstance } from './instance.ts';

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

describe('while contacts are read into memory', () => {
  it('says how many were read, and when all are', async () => {
    await inTransaction((transaction) =>
      ContactRow.bulkCreate(
        Array.from({ length: 10_000 }, (_, n) => ({
          email: `read.${n}@example.org`,
          name: `${n}`,
          values: {},
        })),
        { transaction },
      ),
    );
    const told: (number | null)[] = [];
    const held = new HeldPeople(accessOf(instance.sequelize), (read) => told.push(read));
    const total = await held.total();
    expect(total).toBeGreaterThan(10_000);
    expect(told).toEqual([0, 10_000, null]);
    // Now that they are loaded, asking again reads nothing.
    await held.total();
    expect(told.length).toBe(3);
  });

  it('reads nobody again where only words about attributes changed, and sorts by the new ones', async () => {
    const told: (number | null)[] = [];
    const held = new HeldPeople(accessOf(instance.sequelize), (read) => told.push(read));
    const labelled = (labels: readonly [string, string]): Scope => ({
      zone: 'UTC',
      audiences: [],
      attributes: [
        {
          id: 'roles',
          source: 'contact',
          label: labels.join(),
          description: labels.join(),
          type: 'set',
          exclusiveGroups: [],
          choices: ['member', 'educator'].map((id, index) => ({ id, label: labels[index] ?? '' })),
        },
      ],
    });
    const firstRole = async (scope: Scope) => {
      const where = { kind: 'test' as const, attribute: 'roles', op: 'has-value', values: [] };
      const query = { where, search: '', sort: 'roles', direction: 'up' as const, from: 0, most: 1 };
      const { ids } = await held.list(scope, { instant: Date.now(), channel: 'page' }, query);
      return [(await ContactRow.findByPk(ids[0]))?.values.roles].flat()[0];
    };
    expect(await firstRole(labelled(['A', 'B']))).toBe('member');
    const reads = told.length;
    expect(await firstRole(labelled(['B', 'A']))).toBe('educator');
    expect(told.length).toBe(reads);
    // Another choice is another column.
    const more = labelled(['A', 'B']);
    const [roles] = more.attributes;
    if (roles?.type !== 'set') throw new Error('no set');
    const choices = [...roles.choices, { id: 'staff', label: 'C' }];
    await firstRole({ ...more, attributes: [{ ...roles, choices }] });
    expect(told.length).toBeGreaterThan(reads);
  });

  it('lists audiences without their counts, which come later', async () => {
    const { asks } = instance.app.people;
    const { count } = asks;
    let goOn = () => {};
    const goesOn = new Promise<void>((resolve) => {
      goOn = resolve;
    });
    let begun = 0;
    Reflect.set(asks, 'count', async (...args: Parameters<typeof count>) => {
      begun++;
      await goesOn;
      return count(...args);
    });
    const counts = async () => {
      const { status, body } = await instance.studio.get('/api/audiences');
      expect(status).toBe(200);
      return listedAudienceSchema
        .array()
        .parse(body)
        .map((audience) => [audience.count, audience.liveCount]);
    };
    // An audience that is new, so that nothing is known of the counts from before.
    const made = await instance.studio.call('POST', '/api/audiences', {
      name: 'Counted late',
      condition: { kind: 'all', of: [] },
    });
    expect(made.status).toBe(201);
    const early = await counts();
    expect(early.length).toBeGreaterThan(3);
    expect(early.flat().every((one) => one === null)).toBe(true);
    // Whoever asks again meanwhile does not have everything counted once more.
    const once = begun;
    await counts();
    expect(begun).toBe(once);
    goOn();
    const isCounted = async () => (await counts()).every(([now]) => typeof now === 'number');
    await vi.waitFor(async () => expect(await isCounted()).toBe(true), { timeout: 20_000 });
    expect((await instance.studio.get('/api/contacts/reading')).body).toEqual({ reading: null });
    Reflect.set(asks, 'count', count);
  });
});
