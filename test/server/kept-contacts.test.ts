import {
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serialize } from 'node:v8';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { all, test } from '../../core/conditions/condition.ts';
import { HeldPeople } from '../../server/people/held-people.ts';
import type { Scope } from '../../server/people/questions.ts';
import { ContactRow } from '../../server/people/rows.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
import { accessOf } from '../../server/store/connection.ts';
import { noteChange } from '../../server/store/noted-changes.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Instance, startInstance } from './instance.ts';

// More than are told of at a time, so that reading all of them is seen by what is told.
const many = 11_000;
const setting = { instant: Date.now(), channel: 'page' as const };

let instance: Instance;
let scope: Scope;
let log: ChangeLog;
beforeAll(async () => {
  instance = await startInstance();
  await inTransaction((transaction) =>
    ContactRow.bulkCreate(
      Array.from({ length: many }, (_, n) => ({
        email: `kept.${n}@example.org`,
        name: `Kept ${n}`,
        values: { city: n % 2 === 0 ? 'Much Wenlow' : 'Little Wenlow' },
      })),
      { transaction },
    ),
  );
  const { people, drafts } = instance.app;
  scope = people.scopeOf(await drafts.snapshot());
  log = await ChangeLog.open(instance.sequelize);
});
afterAll(() => instance.stop());

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'apple-porch-contacts-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** Everything that can be asked of those in memory, by a server that starts now; and whether it read all of them. */
async function started(from?: string, fewestForTwo?: number) {
  const told: (number | null)[] = [];
  const held = new HeldPeople(accessOf(instance.sequelize), (read) => told.push(read), from, fewestForTwo);
  const query = { where: all(), search: '', sort: 'name', direction: 'up' as const, from: 0, most: 20_000 };
  const answers = {
    names: await held.list(scope, setting, query),
    total: await held.total(),
    found: await held.list(scope, setting, { ...query, search: 'kept 77', sort: 'city' }),
    cities: await held.values(scope, 'city', 50),
    lacking: await held.lacking(
      scope,
      scope.attributes.map(({ id }) => id),
    ),
    counts: await held.count(scope, setting, [
      test('city', 'is-one-of', 'Much Wenlow'),
      test('signed-in', 'is-yes'),
      test('visits', 'at-least', 3),
    ]),
  };
  return { held, answers, isReadWhole: told.some((read) => read !== null && read >= 10_000) };
}

/** A server that has everybody in memory, and writes them down at its end. */
async function keeping() {
  const { held } = await started(folder);
  await log.follow();
  expect(await held.keep(log.position)).toBe(true);
  return held;
}

const files = () => readdirSync(folder).map((name) => join(folder, name));
const onlyFile = () => {
  const [file = '', ...others] = files();
  expect(others).toEqual([]);
  return file;
};

describe('contacts that two threads read', () => {
  it('are the same as read by one, and go on as these do', async () => {
    const [one, two] = [await started(undefined, Number.POSITIVE_INFINITY), await started(undefined, 0)];
    expect(two.answers).toEqual(one.answers);
    expect(two.answers.total).toBeGreaterThan(many);
    // Somebody of each half, and somebody new.
    const changed = await inTransaction(async (transaction) => {
      const ids: number[] = [];
      for (const email of ['kept.7@example.org', `kept.${many - 7}@example.org`]) {
        const row = await ContactRow.findOne({ where: { email }, transaction });
        await row?.update({ name: `Renamed ${email}`, values: { city: 'Halves End' } }, { transaction });
        ids.push(row?.id ?? 0);
      }
      const made = await ContactRow.create(
        { email: 'kept.halves@example.org', name: 'Kept between', values: { city: 'Halves End' } },
        { transaction },
      );
      return [...ids, made.id];
    });
    for (const { held } of [one, two]) {
      await held.changed(changed);
      expect(await held.count(scope, setting, [test('city', 'is-one-of', 'Halves End')])).toEqual([3]);
      const query = {
        where: all(),
        search: 'renamed',
        sort: 'name',
        direction: 'up' as const,
        from: 0,
        most: 9,
      };
      expect((await held.list(scope, setting, query)).ids.toSorted()).toEqual(changed.slice(0, 2).toSorted());
    }
    await inTransaction((transaction) =>
      ContactRow.destroy({ where: { id: changed[2] ?? 0 }, transaction, individualHooks: true }),
    );
    await inTransaction(async (transaction) => {
      for (const [index, n] of [7, many - 7].entries())
        await ContactRow.update(
          { name: `Kept ${n}`, values: { city: n % 2 === 0 ? 'Much Wenlow' : 'Little Wenlow' } },
          { where: { id: changed[index] ?? 0 }, transaction, individualHooks: true },
        );
    });
  });
});

describe('contacts that were written down at the end', () => {
  it('are there again at the next start, with whatever changed meanwhile, and none of them is read', async () => {
    await keeping();
    // Only whoever runs the server may read the file.
    expect(statSync(onlyFile()).mode & 0o077).toBe(0);
    const [one, other, gone] = await ContactRow.findAll({ where: { name: ['Kept 1', 'Kept 2', 'Kept 3'] } });
    await inTransaction(async (transaction) => {
      await one?.update({ name: 'Another name', values: { city: 'Elsewhere' } }, { transaction });
      await other?.update({ email: 'kept.77.again@example.org' }, { transaction });
      await gone?.destroy({ transaction });
      await ContactRow.create({ email: 'new@example.org', name: 'Aa New', values: {} }, { transaction });
    });
    const [again, anew] = [await started(folder), await started()];
    expect([again.isReadWhole, anew.isReadWhole]).toEqual([false, true]);
    expect(again.answers).toEqual(anew.answers);
    expect(again.answers.cities).toContainEqual({ value: 'Elsewhere', count: 1 });
  });

  it('are written again only where something changed', async () => {
    const held = await keeping();
    expect(await held.keep(log.position)).toBe(false);
    const contact = await ContactRow.findOne({ where: { name: 'Kept 10' } });
    await held.changed([contact?.id ?? 0]);
    expect(await held.keep(log.position)).toBe(true);
    const again = await started(folder);
    expect(await again.held.keep(log.position)).toBe(false);
  });

  it.each<[string, () => Promise<unknown>]>([
    ['is cut off', async () => truncateSync(onlyFile(), Math.floor(statSync(onlyFile()).size / 2))],
    ['has lost its end', async () => truncateSync(onlyFile(), statSync(onlyFile()).size - 10)],
    ['is empty', async () => writeFileSync(onlyFile(), '')],
    ['is something else', async () => writeFileSync(onlyFile(), 'not an image at all')],
    [
      'is of another version',
      async () => {
        const bytes = readFileSync(onlyFile());
        const [head, length] = [serialize({ version: 0 }), Buffer.alloc(8)];
        length.writeBigUInt64LE(BigInt(head.length));
        writeFileSync(onlyFile(), Buffer.concat([length, head, bytes]));
      },
    ],
    [
      'is not known to the database, as after a backup was brought back',
      () => instance.sequelize.query('DELETE FROM contact_images'),
    ],
    [
      'is older than what the log still says',
      () => instance.sequelize.query("UPDATE contact_images SET at = '2020-01-01'"),
    ],
    [
      'is from before everybody changed',
      async () => {
        await inTransaction(async (transaction) => noteChange(transaction, 'contact', null));
        await log.follow();
      },
    ],
  ])('are read from the database where the file %s', async (_what, damage) => {
    await keeping();
    await damage();
    const [again, anew] = [await started(folder), await started()];
    expect(again.isReadWhole).toBe(true);
    expect(again.answers).toEqual(anew.answers);
    // The next end writes a whole one again.
    await log.follow();
    expect(await again.held.keep(log.position)).toBe(true);
    expect((await started(folder)).isReadWhole).toBe(false);
  });

  it('are read from the database where attributes are others by now', async () => {
    await keeping();
    const before = scope;
    scope = { ...scope, attributes: scope.attributes.filter(({ id }) => id !== 'visits') };
    const query = { where: all(), search: '', sort: 'name', direction: 'up' as const, from: 0, most: 3 };
    const told: (number | null)[] = [];
    const held = new HeldPeople(accessOf(instance.sequelize), (read) => told.push(read), folder);
    expect((await held.list(scope, setting, query)).ids.length).toBe(3);
    expect(told).toContain(10_000);
    scope = before;
  });

  it('leave nothing of whoever is erased in a file', async () => {
    const held = await keeping();
    const contact = await ContactRow.findOne({ where: { name: 'Kept 20' } });
    if (!contact) throw new Error('nobody to erase');
    await inTransaction((transaction) => contact.destroy({ transaction }));
    await held.changed([contact.id]);
    expect(files()).toEqual([]);
    await held.keep(log.position);
    expect(readFileSync(onlyFile()).includes('kept.20@example.org')).toBe(false);
    expect(readFileSync(onlyFile()).includes('kept.21@example.org')).toBe(true);
  });

  it('are kept by a server that stops, and taken up by the next', async () => {
    process.env.CONTACT_FOLDER = folder;
    try {
      const first = await startInstance(instance);
      await first.stop();
      expect(files().length).toBeGreaterThan(0);
      const second = await startInstance(instance);
      const { contacts } = (await second.studio.get('/api/contacts?search=Kept%2042&sort=name')).body;
      expect(contacts[0].name).toBe('Kept 42');
      await second.stop();
    } finally {
      delete process.env.CONTACT_FOLDER;
    }
  });
});
