import { setTimeout as delay } from 'node:timers/promises';
import { type Sequelize, Transaction } from 'sequelize';
import { DocumentRow } from '../../server/documents/rows.ts';
import { ChangeLog } from '../../server/store/change-log.ts';
import { appendNoted, noteChangesOf } from '../../server/store/noted-changes.ts';
import { openDatabase } from '../../server/tables.ts';

// One of several processes that change the same documents, slowly and in each other's way, and follow the log of changes.
// It is told what to change, and says what it committed and what it was told.

export interface Wanted {
  readonly documents: readonly string[];
  readonly writers: number;
  readonly each: number;
}

/** A document by its id, with the revision that it came to have. */
export type Revised = readonly [id: string, revision: number];

export interface Outcome {
  readonly committed: Revised[];
  /** In the order in which it was told. */
  readonly told: { readonly position: number; readonly change: Revised; readonly isVisible: boolean }[];
}

const longest = 120;

async function run(wanted: Wanted): Promise<Outcome> {
  const sequelize = await openDatabase(process.env.DATABASE_URL ?? '');
  const log = await ChangeLog.open(sequelize);
  const outcome: Outcome = { committed: [], told: [] };
  log.on(['document'], async (changes) => {
    for (const { position, ids, revision } of changes) {
      const [id = ''] = ids ?? [];
      const row = await DocumentRow.findByPk(id, { attributes: ['revision'] });
      const isVisible = (row?.revision ?? 0) >= (revision ?? 0);
      outcome.told.push({ position, change: [id, revision ?? 0], isVisible });
    }
  });
  log.start();
  process.send?.('follows');
  await new Promise((resolve) => process.once('message', resolve));
  await Promise.all(
    Array.from({ length: wanted.writers }, async () => {
      for (let n = 0; n < wanted.each; n++) {
        const id = wanted.documents[Math.floor(Math.random() * wanted.documents.length)] ?? '';
        const revised = await revise(sequelize, id);
        if (revised) outcome.committed.push(revised);
      }
    }),
  );
  process.send?.('wrote');
  await new Promise((resolve) => process.once('message', resolve));
  await log.follow();
  await log.stop();
  await sequelize.close();
  return outcome;
}

/** Changes a document in a transaction that lingers after it has written its entry; every eighth is taken back. */
async function revise(sequelize: Sequelize, id: string): Promise<Revised | undefined> {
  const { READ_COMMITTED } = Transaction.ISOLATION_LEVELS;
  const transaction = await sequelize.transaction({ isolationLevel: READ_COMMITTED });
  const changes = noteChangesOf(transaction);
  const row = await DocumentRow.findByPk(id, { transaction, lock: true, rejectOnEmpty: true });
  const revision = row.revision + 1;
  await row.update({ revision }, { transaction });
  await appendNoted(sequelize, transaction, changes);
  await delay(Math.random() * longest);
  if (Math.random() < 1 / 8) {
    await transaction.rollback();
    return undefined;
  }
  await transaction.commit();
  return [id, revision];
}

process.once('message', async (wanted: Wanted) => {
  process.send?.(await run(wanted));
  process.disconnect();
});
