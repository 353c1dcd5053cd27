import type { Connection } from 'mysql2/promise';
import type { Sequelize } from 'sequelize';
import { ChangeLog } from './change-log.ts';
import { type Access, connectTo } from './hosts.ts';
import { appendChanges, NotedChanges } from './noted-changes.ts';

export type { Connection } from 'mysql2/promise';

const accesses = new WeakMap<Sequelize, Access>();

/** Says by what a connection pool reaches its database. */
export function reachBy(sequelize: Sequelize, access: Access): void {
  accesses.set(sequelize, access);
}

/** How the database of this process is reached by itself. */
export function accessOf(sequelize: Sequelize): Access {
  const access = accesses.get(sequelize);
  if (!access) throw new Error('the database is not open');
  return access;
}

/**
 * Work on many rows in one transaction on a connection of its own: all of it is stored, or nothing. What it changes is to be
 * noted, and is in the log with it.
 */
export async function onOwnConnection<Result>(
  sequelize: Sequelize,
  work: (connection: Connection, changes: NotedChanges) => Promise<Result>,
): Promise<Result> {
  const connection = await connectTo(accessOf(sequelize));
  const result = await inOwnTransaction(connection, work).finally(() => connection.destroy());
  await ChangeLog.tellOwn(sequelize);
  return result;
}

/** As {@link onOwnConnection}, on a connection that is there; nobody in this process is told of the changes by it. */
export async function inOwnTransaction<Result>(
  connection: Connection,
  work: (connection: Connection, changes: NotedChanges) => Promise<Result>,
): Promise<Result> {
  await connection.beginTransaction();
  try {
    const changes = new NotedChanges();
    const result = await work(connection, changes);
    await appendChanges(connection, changes);
    await connection.commit();
    return result;
  } catch (error) {
    // Where the connection is gone, the database has rolled back already.
    await connection.rollback().catch(() => undefined);
    throw error;
  }
}
