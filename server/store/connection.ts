import mysql, { type Connection } from 'mysql2/promise';
import type { Sequelize } from 'sequelize';
import type { Connection as Access } from '../jobs/questions.ts';

/** How the database of this process is reached by itself. */
export function accessOf(sequelize: Sequelize): Access {
  const { host = '127.0.0.1', port, username, password, database } = sequelize.config;
  return { host, port: Number(port ?? 3306), user: username, password: password ?? '', database };
}

/** Work on many contacts in one transaction on a connection of its own: all of it is stored, or nothing. */
export async function onOwnConnection<Result>(
  sequelize: Sequelize,
  work: (connection: Connection) => Promise<Result>,
): Promise<Result> {
  const connection = await mysql.createConnection({
    ...accessOf(sequelize),
    charset: 'utf8mb4',
    timezone: 'Z',
  });
  try {
    await connection.beginTransaction();
    const result = await work(connection);
    await connection.commit();
    return result;
  } finally {
    // What was not committed is rolled back with its connection.
    connection.destroy();
  }
}
