import pRetry from 'p-retry';
import { DatabaseError, UniqueConstraintError } from 'sequelize';

/** Most times that work is tried that another transaction gets in the way of. */
const mostTries = 5;

/**
 * Does work that others may be doing at the same moment: where the database ends it because of them, it is done again,
 * after what they stored, a little later each time. It must have no other effect than in its own transaction.
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

/** Whether an error is a deadlock, or what a cluster says of a commit that another node was before. */
export function isDeadlock(error: unknown): boolean {
  return (
    error instanceof DatabaseError && 'code' in error.original && error.original.code === 'ER_LOCK_DEADLOCK'
  );
}

/** Whether an error is a deadlock, or a row that somebody else was first to add. */
export function isOthersDoing(error: unknown): boolean {
  return error instanceof UniqueConstraintError || isDeadlock(error);
}
