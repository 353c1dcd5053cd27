import type { Sequelize } from 'sequelize';
import { amongOthers } from './among-others.ts';

/**
 * Does one statement that is a change by itself, in no transaction with others and told to nobody; again where others got in
 * its way, which a cluster says of any statement.
 */
export async function changeBy(
  sequelize: Sequelize,
  sql: string,
  replacements: unknown[] | { [name: string]: unknown } = [],
): Promise<void> {
  await amongOthers(() => sequelize.query(sql, { replacements }));
}
