import { AsyncLocalStorage } from 'node:async_hooks';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { amongOthers, isDeadlock, isOthersDoing } from './among-others.ts';
import { ChangeLog } from './change-log.ts';
import { accessOf } from './connection.ts';
import { appendNoted, noteChangesOf } from './noted-changes.ts';
import { isUnreachable, UnknownOutcome } from './reach.ts';
import { SettingRow } from './rows.ts';

export type { Transaction } from 'sequelize';

/** The statement that takes the turn, for connections outside the pool. */
export const takeTurnSql =
  "INSERT INTO settings (`key`, value) VALUES ('turn', '1') ON DUPLICATE KEY UPDATE value = value + 1";

/**
 * Serialises transactions that check uniqueness across tables: waits for its turn and holds it until the transaction ends. Call
 * it first, so that later reads see what the others committed. It writes the row instead of only locking it, because a lock
 * holds on one cluster node: of two nodes, the second to commit fails certification and retries.
 */
export async function waitForTurn(transaction: Transaction): Promise<void> {
  await SettingRow.sequelize?.query(takeTurnSql, { type: QueryTypes.INSERT, transaction });
}

/** How long to wait for a cluster node, in milliseconds. */
const longestWait = 14_000;

/** The transaction that the current work runs in. */
const within = new AsyncLocalStorage<true>();

/**
 * Runs work in one transaction and retries it after conflicts. Pass the transaction to every query of the work. The changes it
 * notes are committed to the change log with it, and the listeners of this process are notified before this resolves.
 */
export function inTransaction<Result>(work: (transaction: Transaction) => Promise<Result>): Promise<Result> {
  const { sequelize } = SettingRow;
  if (!sequelize) throw new Error('the database is not open');
  return again(sequelize, () => once(sequelize, work), isDeadlock);
}

async function once<Result>(
  sequelize: Sequelize,
  work: (transaction: Transaction) => Promise<Result>,
): Promise<Result> {
  let isLogged = false;
  let isCommitting = false;
  let result: Result;
  try {
    result = await sequelize.transaction((transaction) =>
      within.run(true, async () => {
        const changes = noteChangesOf(transaction);
        const done = await work(transaction);
        isLogged = await appendNoted(sequelize, transaction, changes);
        isCommitting = true;
        return done;
      }),
    );
  } catch (error) {
    throw isCommitting && isUnreachable(error) ? new UnknownOutcome(error) : error;
  }
  if (isLogged) await ChangeLog.tellOwn(sequelize);
  return result;
}

/**
 * Makes a query throw that runs inside a transaction's work but was not given the transaction. Such a query needs another
 * connection, which can deadlock the pool, and does not see the transaction's writes. For development and tests.
 */
export function refuseStrayQueries(sequelize: Sequelize): void {
  sequelize.addHook('beforeQuery', ({ transaction }: { transaction?: Transaction | null }) => {
    if (within.getStore() && !transaction)
      throw new Error('A query within a transaction is no part of it; give it the transaction.');
  });
}

/** Runs one idempotent statement with the retries of {@link inTransaction}. */
export function untilDone<Result>(work: () => Promise<Result>): Promise<Result> {
  const { sequelize } = SettingRow;
  if (!sequelize) throw new Error('the database is not open');
  return again(sequelize, work, isDeadlock);
}

/** As {@link inTransaction}, and retries when another transaction added the same row first; see {@link isOthersDoing}. */
export function inTransactionAmongOthers<Result>(
  work: (transaction: Transaction) => Promise<Result>,
): Promise<Result> {
  const { sequelize } = SettingRow;
  if (!sequelize) throw new Error('the database is not open');
  return again(sequelize, () => once(sequelize, work), isOthersDoing);
}

/**
 * Retries after a conflict. On a cluster, where a node may disappear at any moment, it also retries on another node, for as
 * long as a person would wait; but not when it is unknown whether the commit went through.
 */
function again<Result>(
  sequelize: Sequelize,
  work: () => Promise<Result>,
  isTriedAgain: (error: unknown) => boolean,
): Promise<Result> {
  const isCluster = accessOf(sequelize).hosts.length > 1;
  const end = Date.now() + longestWait;
  return amongOthers(
    work,
    (error) =>
      isTriedAgain(error) ||
      (isCluster && isUnreachable(error) && !(error instanceof UnknownOutcome) && Date.now() < end),
  );
}
