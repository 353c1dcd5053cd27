import type { Connection, ResultSetHeader } from 'mysql2/promise';

/** A job as one process holds it. */
export interface Claim {
  readonly id: number;
  /** Which claim of the job it is: whoever has an earlier one lost the job. */
  readonly claim: number;
}

/** A claim with the time that it is kept, in milliseconds, from each time that its process is heard of. */
export interface Hold extends Claim {
  readonly lease: number;
}

/** The job is to stop, its process ends, or somebody else has it by now. */
export class Interrupted extends Error {
  constructor(readonly why: 'stopping' | 'ending' | 'lost') {
    super(`the job is interrupted: ${why}`);
  }
}

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
