import type { Transaction } from 'sequelize';
import { AccountRow } from './models.ts';

/** Runs work in one transaction: all of it is stored, or nothing. */
export function inTransaction<Result>(work: (transaction: Transaction) => Promise<Result>): Promise<Result> {
  const { sequelize } = AccountRow;
  if (!sequelize) throw new Error('the database is not open');
  return sequelize.transaction(work);
}
