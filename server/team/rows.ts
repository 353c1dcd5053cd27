import {
  type CreationAttributes,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import type { Transaction } from '../store/transaction.ts';

export class AccountRow extends Model<InferAttributes<AccountRow>, InferCreationAttributes<AccountRow>> {
  declare id: CreationOptional<number>;
  declare email: string;
  declare name: string;
  declare passwordHash: string;
}

/** Ties the tables to a connection. */
export function defineAccounts(sequelize: Sequelize): void {
  AccountRow.init(
    { id: serial(), email: string, name: string, passwordHash: string },
    table(sequelize, 'accounts', 'created'),
  );
  noteChangesTo(AccountRow, 'account', 'id');
}

/** The team account of an email address; null where there is none. */
export function accountOf(email: string): Promise<AccountRow | null> {
  return AccountRow.findOne({ where: { email } });
}

export function countAccounts(transaction?: Transaction): Promise<number> {
  return AccountRow.count(transaction && { transaction });
}

export function insertAccount(
  values: CreationAttributes<AccountRow>,
  transaction: Transaction,
): Promise<AccountRow> {
  return AccountRow.create(values, { transaction });
}

/** The names of everybody who works in the studio. */
export async function teamNames(): Promise<string[]> {
  const rows = await AccountRow.findAll({ raw: true, attributes: ['name'], order: [['name', 'ASC']] });
  return rows.map(({ name }) => name);
}
