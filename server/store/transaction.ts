import { DatabaseError, type Transaction, UniqueConstraintError } from 'sequelize';
import { AccountRow } from './models.ts';

/** Runs work in one transaction: all of it is stored, or nothing. */
export function inTransaction<Result>(work: (transaction: Transaction) => Promise<Result>): Promise<Result> {
  const { sequelize } = AccountRow;
  if (!sequelize) throw new Error('the database is not open');
  return sequelize.transaction(work);
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
