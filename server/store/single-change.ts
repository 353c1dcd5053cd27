import type { Sequelize } from 'sequelize';
import { amongOthers } from './among-others.ts';

/**
 * Runs one statement that changes something, outside any transaction and without an entry in the change log. Tries it again
 * after a deadlock, which on a cluster can happen to any statement.
 */
export async function changeBy(
  sequelize: Sequelize,
  sql: string,
  replacements: unknown[] | { [name: string]: unknown } = [],
): Promise<void> {
  await amongOthers(() => sequelize.query(sql, { replacements }));
}
