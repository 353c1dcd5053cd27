import { type ChildProcess, fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import type { Sequelize } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type LoggedChange, loggedKinds } from '../../contract/changes.ts';
import { DocumentRow } from '../../server/documents/rows.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
import { onOwnConnection } from '../../server/store/connection.ts';
import { appendNoted, NotedChanges, noteChange, noteChangesOf } from '../../server/store/noted-changes.ts';
import { SettingRow } from '../../server/store/rows.ts';
import { inTransaction } from '../../server/store/transaction.ts';
import { openDatabase } from '../../server/tables.ts';
import type { Outcome, Revised, Wanted } from './log-process.ts';

let sequelize: Sequelize;
let url: string;
beforeAll(async () => {
  const name = `apple_porch_test_${randomBytes(6).toString('hex')}`;
  url = `${process.env.TEST_DATABASE_SERVER}/${name}`;
  sequelize = await openDatabase(url);
});
afterAll(async () => {
  await sequelize.getQueryInterface().dropDatabase(new URL(url).pathname.slice(1));
  await sequelize.close();
});

const content = { subject: [], preview: [], body: [] };
const documentOf = (id: string) => ({ id, kind: 'page' as const, name: id, slug: id, content });
const create = (id: string) =>
  inTransaction((transaction) => DocumentRow.create(documentOf(id), { transaction }));

/** A log with all that it tells from now on. */
async function listening(): Promise<{ log: ChangeLog; told: LoggedChange[]; stop: () => void }> {
  const log = await ChangeLog.open(sequelize);
  const told: LoggedChange[] = [];
  const stop = log.on(loggedKinds, (changes) => {
    told.push(...changes);
  });
  return { log, told, stop };
}

const short = ({ kind, ids, revision }: LoggedChange) => [kind, ids, revision];

describe('the log of changes', () => {
  it('tells of everything where only changes of contacts are left of what followed', async () => {
    const { log, told, stop } = await listening();
    // From here on it hears of nothing, as a server that is cut off.
    await log.stop();
    const note = (kind: 'contact' | 'document', id: string) =>
      inTransaction(async (transaction) => noteChange(transaction, kind, id));
    await note('contact', '1');
    await note('document', 'between');
    await note('contact', '2');
    const other = await ChangeLog.open(sequelize);
    await sequelize.query("DELETE FROM changes WHERE kind = 'document' AND entity = 'between'");
    await log.follow();
    expect(told.map(({ kind, ids }) => [kind, ids])).toEqual(loggedKinds.map((kind) => [kind, null]));
    expect(log.position).toBe(other.position);
    await other.stop();
    stop();
  });

  it('tells what a transaction changed, each thing once with its latest revision, when it is committed', async () => {
    const { told, stop } = await listening();
    await inTransaction(async (transaction) => {
      const row = await DocumentRow.create(documentOf('one'), { transaction });
      await row.update({ revision: 2 }, { transaction });
      await DocumentRow.update({ name: 'Two' }, { where: { id: ['one', 'two'] }, transaction });
      await SettingRow.upsert({ key: 'demo', value: true }, { transaction });
      await DocumentRow.destroy({ where: { name: 'nobody' }, transaction });
    });
    // The last of them may concern any document, which leaves nothing to name.
    expect(told.map(short)).toEqual([
      ['document', null, null],
      ['use', null, null],
      ['setting', ['demo'], null],
    ]);
    await create('three');
    expect(told.slice(3).map(short)).toEqual([['document', ['three'], 1]]);
    stop();
  });

  it('tells nothing of what was taken back', async () => {
    const { log, told, stop } = await listening();
    const failing = inTransaction(async (transaction) => {
      await DocumentRow.create(documentOf('never'), { transaction });
      throw new Error('changed my mind');
    });
    await expect(failing).rejects.toThrow('changed my mind');
    await log.follow();
    expect(told).toEqual([]);
    stop();
  });

  it('refuses a change outside of a transaction, by every way of a model', async () => {
    await create('outside');
    const row = await DocumentRow.findByPk('outside', { rejectOnEmpty: true });
    const where = { id: 'outside' };
    for (const change of [
      () => DocumentRow.create(documentOf('stray')),
      () => DocumentRow.bulkCreate([documentOf('stray')]),
      () => DocumentRow.upsert(documentOf('stray')),
      () => DocumentRow.update({ name: 'Stray' }, { where }),
      () => DocumentRow.destroy({ where }),
      () => row.update({ name: 'Stray' }),
      () => row.destroy(),
    ])
      await expect(change()).rejects.toThrow('within a transaction');
    expect(await DocumentRow.count({ where: { id: 'stray' } })).toBe(0);
    expect((await DocumentRow.findByPk('outside'))?.name).toBe('outside');
  });

  it('names up to 20,000 in one entry, and of more says only that any may have changed', async () => {
    const { told, stop } = await listening();
    for (const count of [200, 201, 20_000, 20_001])
      await onOwnConnection(sequelize, async (_connection, changes) => {
        for (let id = 1; id <= count; id++) changes.add('contact', String(id));
      });
    expect(told.map(({ ids }) => ids?.length ?? null)).toEqual([
      ...Array<number>(200).fill(1),
      201,
      20_000,
      null,
    ]);
    stop();
  });

  it('tells of what is committed late, although others that began later were told already', async () => {
    const { log, told, stop } = await listening();
    const slow = await sequelize.transaction();
    const changes = noteChangesOf(slow);
    await DocumentRow.create(documentOf('slow'), { transaction: slow });
    await appendNoted(sequelize, slow, changes);
    await create('quick');
    await log.follow();
    expect(told.map(short)).toEqual([['document', ['quick'], 1]]);
    await slow.commit();
    await log.follow();
    expect(told.map(short)).toEqual([
      ['document', ['quick'], 1],
      ['document', ['slow'], 1],
    ]);
    expect((told[1]?.position ?? 0) - (told[0]?.position ?? 0)).toBe(1);
    stop();
  });

  it('stays where it is until everybody could do what they had to, and tells them again', async () => {
    const { log, told, stop } = await listening();
    const before = log.position;
    let failures = 2;
    const stopFailing = log.on(['document'], () => {
      if (failures-- > 0) throw new Error('not now');
    });
    // The change itself is done, whatever becomes of the telling.
    await create('hard-to-tell');
    expect(await DocumentRow.count({ where: { id: 'hard-to-tell' } })).toBe(1);
    expect(log.position).toBe(before);
    await expect(log.follow()).rejects.toThrow('not now');
    await log.follow();
    expect(log.position).toBe(before + 1);
    expect(told).toHaveLength(3);
    stopFailing();
    stop();
  });

  it('tells somebody who was away for longer than changes are kept that anything may have changed', async () => {
    const { log, told, stop } = await listening();
    const aside = new NotedChanges();
    aside.add('audience', 'a');
    for (let n = 0; n < 3; n++)
      await sequelize.transaction((transaction) => appendNoted(sequelize, transaction, aside));
    await ChangeLog.open(sequelize);
    await sequelize.query(`DELETE FROM changes WHERE position <= ${log.position + 1}`);
    await log.follow();
    expect(new Set(told.map(({ kind }) => kind))).toEqual(new Set(loggedKinds));
    expect(told.every(({ ids }) => ids === null)).toBe(true);
    stop();
  });

  it('waits for a position that is still to come, and no longer than it is allowed to', async () => {
    const { log, stop } = await listening();
    expect(await log.until(log.position)).toBe(true);
    const next = log.position + 1;
    expect(await log.until(next, 200)).toBe(false);
    const waited = log.until(next);
    await delay(50);
    await sequelize.transaction(async (transaction) => {
      const changes = noteChangesOf(transaction);
      changes.add('setting', 'site');
      await appendNoted(sequelize, transaction, changes);
    });
    expect(await waited).toBe(true);
    stop();
  });

  it('misses nothing and keeps the order of each thing, in three processes with slow transactions', {
    timeout: 600_000,
  }, async () => {
    const documents = Array.from({ length: 20 }, (_, at) => `shared-${at}`);
    for (const id of documents) await create(id);
    const wanted: Wanted = { documents, writers: 6, each: 15 };
    const processes = await Promise.all([1, 2, 3].map(() => begun(wanted)));
    await together(processes, 'wrote');
    const outcomes = await Promise.all(processes.map(outcomeOf));
    const sorted = (all: readonly Revised[]) => all.map(String).sort();
    const committed = sorted(outcomes.flatMap((outcome) => outcome.committed));
    expect(committed.length).toBeGreaterThan(180);
    expect(new Set(outcomes.map(({ committed }) => committed.length > 0))).toEqual(new Set([true]));
    for (const { told } of outcomes) {
      expect(sorted(told.map(({ change }) => change))).toEqual(committed);
      expect(told.filter(({ isVisible }) => !isVisible)).toEqual([]);
      const first = told[0]?.position ?? 0;
      expect(told.map(({ position }) => position)).toEqual(told.map((_, at) => first + at));
      for (const id of documents) {
        const revisions = told.flatMap(({ change }) => (change[0] === id ? change[1] : []));
        expect(revisions).toEqual(revisions.map((_, at) => at + 2));
      }
    }
  });
});

/** A process that follows the log, ready to write. */
async function begun(wanted: Wanted): Promise<ChildProcess> {
  const child = fork(fileURLToPath(new URL('./log-process.ts', import.meta.url)), {
    execArgv: ['--import', 'tsx'],
    env: { ...process.env, DATABASE_URL: url, NODE_ENV: 'test' },
  });
  child.send(wanted);
  await said(child, 'follows');
  return child;
}

/** Has all of them go on at once, and waits until all of them say a word. */
async function together(children: readonly ChildProcess[], word: string): Promise<void> {
  const all = children.map((child) => said(child, word));
  for (const child of children) child.send('go on');
  await Promise.all(all);
}

function said(child: ChildProcess, word: string): Promise<void> {
  return new Promise((resolve, reject) => {
    child.once('message', (message) =>
      message === word ? resolve() : reject(new Error(`${JSON.stringify(message)} instead of ${word}`)),
    );
    child.once('exit', (code) => reject(new Error(`the process ended with ${code}`)));
  });
}

function outcomeOf(child: ChildProcess): Promise<Outcome> {
  return new Promise((resolve, reject) => {
    child.once('message', (outcome: Outcome) => resolve(outcome));
    child.once('exit', (code) => reject(new Error(`the process ended with ${code}`)));
    child.send('go on');
  });
}
