import type { Connection, ResultSetHeader } from 'mysql2/promise';
import { type Hold, Interrupted } from './hold.ts';

/**
 * Fences a transaction on its own connection with a job's lease. Call it last in the transaction: it throws if another
 * process has claimed the job.
 *
 * @param now an SQL expression for the current time; tests pass another one
 */
export async function holdOn(
  connection: Connection,
  { id, claim, lease }: Hold,
  progress: number | null,
  now = 'UTC_TIMESTAMP(3)',
): Promise<void> {
  const [{ affectedRows }] = await connection.query<ResultSetHeader>(
    `UPDATE jobs SET progress = ?, beats = beats + 1, leaseUntil = (${now} + INTERVAL ? MICROSECOND)
     WHERE id = ? AND claim = ? AND status = 'running'`,
    [progress, lease * 1000, id, claim],
  );
  if (affectedRows !== 1) throw new Interrupted('lost');
}
