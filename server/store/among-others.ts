import pRetry from 'p-retry';
import { DatabaseError, UniqueConstraintError } from 'sequelize';

/** The number of attempts for work that conflicts with other transactions. */
const mostTries = 5;

/**
 * Retries work that conflicts with concurrent transactions, with a growing delay. The work must have no effect outside its own
 * transaction.
 */
export function amongOthers<Result>(
  work: () => Promise<Result>,
  isTriedAgain: (error: unknown) => boolean = isOthersDoing,
): Promise<Result> {
  let deadlocks = 0;
  return pRetry(work, {
    retries: 40,
    minTimeout: 5,
    maxTimeout: 500,
    factor: 2,
    randomize: true,
    shouldRetry: ({ error }) => {
      if (isOthersDoing(error) && ++deadlocks >= mostTries) return false;
      return isTriedAgain(error);
    },
  });
}

/** Whether an error is a deadlock, or a failed certification on a cluster. */
export function isDeadlock(error: unknown): boolean {
  return (
    error instanceof DatabaseError && 'code' in error.original && error.original.code === 'ER_LOCK_DEADLOCK'
  );
}

/** Whether an error is a deadlock, or a duplicate of a row that another transaction added first. */
export function isOthersDoing(error: unknown): boolean {
  return error instanceof UniqueConstraintError || isDeadlock(error);
}
