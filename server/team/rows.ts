import {
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { serial, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';

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
