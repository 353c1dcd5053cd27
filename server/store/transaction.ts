import { AsyncLocalStorage } from 'node:async_hooks';
import { DatabaseError, type Sequelize, type Transaction, UniqueConstraintError } from 'sequelize';
import { AccountRow, SettingRow } from './models.ts';

/**
 * Waits until nobody else makes or changes what has to be unique among all, and keeps others waiting until the transaction
 * ends. To be asked for first: what is read afterwards is as the others left it.
 */
export async function waitForTurn(transaction: Transaction): Promise<void> {
  await SettingRow.findByPk('site', { attributes: ['key'], transaction, lock: true });
}

/** Where work goes on in a transaction. */
const within = new AsyncLocalStorage<true>();

/** Runs work in one transaction: all of it is stored, or nothing. Every query of the work has to be given it. */
export function inTransaction<Result>(work: (transaction: Transaction) => Promise<Result>): Promise<Result> {
  const { sequelize } = AccountRow;
  if (!sequelize) throw new Error('the database is not open');
  return sequelize.transaction((transaction) => within.run(true, () => work(transaction)));
}

/**
 * Makes queries fail that are asked within a transaction and are no part of it. They wait for another connection, of which
 * there may be none until the transaction ends, and see nothing of what it did and locked. For development and tests.
 */
export function refuseStrayQueries(sequelize: Sequelize): void {
  sequelize.addHook('beforeQuery', ({ transaction }: { transaction?: Transaction | null }) => {
    if (within.getStore() && !transaction)
      throw new Error('A query within a transaction is no part of it; give it the transaction.');
  });
}

/** Most times that work is tried that another transaction gets in the way of. */
const mostTries = 5;

/**
 * As {@link inTransaction}, for work that others may be doing at the same moment: where the database ends it because of
 * them, it is done again, after what they stored. It must do nothing besides what the transaction holds.
 */
export async function inTransactionAmongOthers<Result>(
  work: (transaction: Transaction) => Promise<Result>,
): Promise<Result> {
  for (let tries = 1; ; tries++)
    try {
      return await inTransaction(work);
    } catch (error) {
      if (tries === mostTries || !isOthersDoing(error)) throw error;
    }
}

/** Whether an error is a deadlock, or a row that somebody else was first to add. */
function isOthersDoing(error: unknown): boolean {
  if (error instanceof UniqueConstraintError) return true;
  return (
    error instanceof DatabaseError && 'code' in error.original && error.original.code === 'ER_LOCK_DEADLOCK'
  );
}
