import { randomUUID } from 'node:crypto';
import { setTimeout as delay } from 'node:timers/promises';
import type { Connection, ResultSetHeader } from 'mysql2/promise';
import pRetry from 'p-retry';

/** How long a holder may go without renewing its lease, in seconds. */
const lease = 20;

/**
 * Runs work under a mutex across processes and database nodes. Others wait; if the holder dies, the next one continues after
 * twenty seconds.
 *
 * The mutex is a lease in a row, not a database lock: those hold on one node only (MariaDB manual, GET_LOCK).
 */
export async function alone<Result>(connection: Connection, work: () => Promise<Result>): Promise<Result> {
  const holder = randomUUID();
  const change = (sql: string, values: unknown[]) =>
    // On a cluster the second node to claim it gets a deadlock error.
    pRetry(async () => (await connection.query<ResultSetHeader>(sql, values))[0].affectedRows > 0, {
      retries: 5,
      minTimeout: 20,
      randomize: true,
    });
  await change(
    'CREATE TABLE IF NOT EXISTS starts (id TINYINT PRIMARY KEY, holder CHAR(36), until DATETIME(3))',
    [],
  );
  await change('INSERT IGNORE INTO starts (id) VALUES (1)', []);
  const take = 'UPDATE starts SET holder = ?, until = NOW(3) + INTERVAL ? SECOND WHERE id = 1';
  while (
    !(await change(`${take} AND (until IS NULL OR until < NOW(3) OR holder = ?)`, [holder, lease, holder]))
  )
    await delay(100);
  const renewing = setInterval(
    () => void change(`${take} AND holder = ?`, [holder, lease, holder]).catch(() => undefined),
    (lease * 1000) / 4,
  );
  try {
    return await work();
  } finally {
    clearInterval(renewing);
    await change('UPDATE starts SET until = NULL WHERE id = 1 AND holder = ?', [holder]);
  }
}
