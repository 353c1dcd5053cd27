import { ConnectionError, DatabaseError, type Sequelize, TimeoutError } from 'sequelize';

/** What Node.js and the database's protocol call a connection that is not there, or not any more. */
const lost = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'ENOTFOUND',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SERVER_SHUTDOWN',
  'ER_CON_COUNT_ERROR',
  // A node of a cluster that lost the others (error 1047).
  'ER_UNKNOWN_COM_ERROR',
]);

/** The connection was lost while a transaction was committed: nobody knows whether it was. */
export class UnknownOutcome extends Error {
  constructor(cause: unknown) {
    super('The connection to the database was lost at the end of a change.', { cause });
  }
}

/** Whether an error is no fault of what was asked: the database can't be reached, or went away meanwhile. */
export function isUnreachable(error: unknown): boolean {
  if (error instanceof ConnectionError || error instanceof TimeoutError) return true;
  if (error instanceof UnknownOutcome) return true;
  if (error instanceof DatabaseError) return isUnreachable(error.original);
  if (!(error instanceof Error)) return false;
  if ('code' in error && typeof error.code === 'string' && lost.has(error.code)) return true;
  // What a thread tells has its words only, and so has what a node of a cluster says that lost the others.
  return /WSREP|provider status|ECONNREFUSED|ECONNRESET|EPIPE|closed state|Connection lost|server closed the connection/i.test(
    error.message,
  );
}

/** Whether the database answers now. */
export async function answers(sequelize: Sequelize): Promise<boolean> {
  try {
    await sequelize.query('SELECT 1');
    return true;
  } catch {
    return false;
  }
}
