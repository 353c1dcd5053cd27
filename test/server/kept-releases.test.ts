import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { releasesOfSends, SendRow } from '../../server/mail/rows.ts';
import { outdated } from '../../server/releases/retention.ts';
import { ReleasePartRow, ReleaseRow, storedSnapshot, sweepParts } from '../../server/releases/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { type Instance, startInstance } from './instance.ts';

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

const day = 24 * 3600 * 1000;

/** Renames a page, and releases that. */
async function release(name: string): Promise<number> {
  const { body: stored } = await instance.studio.get('/api/documents/membership');
  const { revision, content } = stored;
  const saved = await instance.studio.call('PUT', '/api/documents/membership', { revision, name, content });
  expect(saved.status).toBe(200);
  const { body: pending } = await instance.studio.get('/api/releases/pending');
  const { fingerprint } = pending;
  const made = await instance.studio.call('POST', '/api/releases', { note: name, fingerprint });
  expect(made.status).toBe(201);
  return made.body.id;
}

const nameIn = (snapshot: unknown) =>
  Object(snapshot).documents.find(({ id }: { id: string }) => id === 'membership').name;
const age = (id: number, days: number) =>
  instance.sequelize.query('UPDATE releases SET createdAt = ? WHERE id = ?', {
    replacements: [new Date(Date.now() - days * day), id],
  });

describe('what releases hold', () => {
  it('is stored once, however many hold it', async () => {
    const first = await release('Once');
    const parts = await ReleasePartRow.count();
    const second = await release('Twice');
    // The page in its new version.
    expect(await ReleasePartRow.count()).toBe(parts + 1);
    const third = await release('Once');
    expect(await ReleasePartRow.count()).toBe(parts + 1);
    for (const [id, name] of [
      [first, 'Once'],
      [second, 'Twice'],
      [third, 'Once'],
    ] as const)
      expect(nameIn(await storedSnapshot(id))).toBe(name);
    expect(await storedSnapshot(third)).toEqual(await storedSnapshot(first));
    expect(await storedSnapshot(99_999)).toBeUndefined();
  });

  it('goes with the last that holds it, but not while one that is being made may take it', async () => {
    const gone = await release('To be gone');
    await release('Still there');
    const before = await ReleasePartRow.count();
    const now = Date.now();
    await inTransaction((transaction) => ReleaseRow.destroy({ where: { id: gone }, transaction }));
    await sweepParts(now, day);
    await sweepParts(now + day - 1000, day);
    expect(await ReleasePartRow.count()).toBe(before);
    // Somebody releases the same again, which takes it before it goes.
    const again = await release('To be gone');
    await sweepParts(now + 2 * day, day);
    expect(nameIn(await storedSnapshot(again))).toBe('To be gone');
    await release('Still there');
    await inTransaction((transaction) => ReleaseRow.destroy({ where: { id: again }, transaction }));
    await sweepParts(now + 3 * day, day);
    await sweepParts(now + 5 * day, day);
    expect(await ReleasePartRow.count()).toBe(before - 1);
    for (const { id } of await ReleaseRow.findAll({ attributes: ['id'] }))
      expect(await storedSnapshot(id)).toBeDefined();
  });
});

describe('releases that are no longer kept', () => {
  it('go, but for the one that is live and those that an email was sent from', async () => {
    const sentFrom = await release('Sent from');
    const forgotten = await release('Forgotten');
    const live = await release('Old and live');
    await age(sentFrom, 400);
    await age(forgotten, 400);
    await age(live, 400);
    const ofWeek = await release('The last of its week');
    await age(ofWeek, 400);
    expect((await instance.studio.call('POST', `/api/releases/${live}/live`)).status).toBe(200);
    const values = { documentId: 'x', documentName: 'x', releaseId: sentFrom, accountName: 'Maya' };
    await inTransaction((transaction) => SendRow.create(values, { transaction }));
    const kept = outdated(
      await ReleaseRow.findAll(),
      new Set([...(await releasesOfSends()), live]),
      Date.now(),
    );
    expect(kept).toEqual([forgotten]);
    // The hourly work, begun now.
    await instance.sequelize.query("UPDATE jobs SET runAfter = '2020-01-01' WHERE kind = 'clear'");
    await vi.waitFor(async () => expect(await ReleaseRow.findByPk(forgotten)).toBeNull(), {
      timeout: 20_000,
    });
    const ids = (await ReleaseRow.findAll({ attributes: ['id'] })).map(({ id }) => id);
    expect(ids).toEqual(expect.arrayContaining([sentFrom, live, ofWeek]));
    expect(ids).not.toContain(forgotten);
    expect((await instance.studio.call('POST', `/api/releases/${forgotten}/live`)).status).toBe(404);
  });
});
