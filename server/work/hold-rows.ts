import type { Connection, ResultSetHeader } from 'mysql2/promise';
import { type Hold, Interrupted } from './hold.ts';

/**
 * Makes a transaction on a connection of its own part of a job, as its last act: it fails where somebody else has the job
 * by now.
 *
 * @param now the present as an expression of SQL; another one for tests
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
