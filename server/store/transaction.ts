import { AsyncLocalStorage } from 'node:async_hooks';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { amongOthers, isDeadlock, isOthersDoing } from './among-others.ts';
import { ChangeLog } from './change-log.ts';
import { accessOf } from './connection.ts';
import { appendNoted, noteChangesOf } from './noted-changes.ts';
import { isUnreachable, UnknownOutcome } from './reach.ts';
import { SettingRow } from './rows.ts';

export type { Transaction } from 'sequelize';

/** Takes the turn, as a statement of its own for connections that are no pool's. */
export const takeTurnSql =
  "INSERT INTO settings (`key`, value) VALUES ('turn', '1') ON DUPLICATE KEY UPDATE value = value + 1";

/**
 * Waits until nobody else makes or changes what has to be unique among all, and keeps others waiting until the transaction
 * ends. To be asked for first: what is read afterwards is as the others left it. The row is written, not only locked, since a
 * lock holds on one node of a cluster: of two nodes the second to commit is refused, and does it again.
 */
export async function waitForTurn(transaction: Transaction): Promise<void> {
  await SettingRow.sequelize?.query(takeTurnSql, { type: QueryTypes.INSERT, transaction });
}

/** How long a node of a cluster is waited for, in milliseconds. */
const longestWait = 14_000;

/** Where work goes on in a transaction. */
const within = new AsyncLocalStorage<true>();

/**
 * Runs work in one transaction: all of it is stored, or nothing. Every query of the work has to be given it. What the work
 * changed is in the log with it, and everybody in this process who follows the log was told when this is done.
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
 * Makes queries fail that are asked within a transaction and are no part of it. They wait for another connection, of which
 * there may be none until the transaction ends, and see nothing of what it did and locked. For development and tests.
 */
export function refuseStrayQueries(sequelize: Sequelize): void {
  sequelize.addHook('beforeQuery', ({ transaction }: { transaction?: Transaction | null }) => {
    if (within.getStore() && !transaction)
      throw new Error('A query within a transaction is no part of it; give it the transaction.');
  });
}

/** Does one statement that can be done twice as well, and again where a transaction would be; see {@link inTransaction}. */
export function untilDone<Result>(work: () => Promise<Result>): Promise<Result> {
  const { sequelize } = SettingRow;
  if (!sequelize) throw new Error('the database is not open');
  return again(sequelize, work, isDeadlock);
}

/** As {@link inTransaction}, for what others may be adding at the same moment; see {@link isOthersDoing}. */
export function inTransactionAmongOthers<Result>(
  work: (transaction: Transaction) => Promise<Result>,
): Promise<Result> {
  const { sequelize } = SettingRow;
  if (!sequelize) throw new Error('the database is not open');
  return again(sequelize, () => once(sequelize, work), isOthersDoing);
}

/**
 * Does it again where the database ended it because of others. On a cluster, where a node may go at any moment, it is also
 * done again on another node, for as long as anybody would wait; but not where nobody knows whether it was committed.
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
