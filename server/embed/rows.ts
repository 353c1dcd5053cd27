import {
  type CreationAttributes,
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { id, instant, string, table } from '../store/columns.ts';
import { noteChangesTo } from '../store/noted-changes.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';

/** What a program or another site asks for decisions with. */
export class ApiKeyRow extends Model<InferAttributes<ApiKeyRow>, InferCreationAttributes<ApiKeyRow>> {
  declare id: string;
  declare name: string;
  declare keyHash: string;
  declare origins: string[];
  declare isSecret: boolean;
  declare createdAt: CreationOptional<Date>;
  declare usedAt: CreationOptional<Date | null>;
}

/** Ties the tables to a connection. */
export function defineApiKeys(sequelize: Sequelize): void {
  ApiKeyRow.init(
    {
      id: id(),
      name: string,
      keyHash: string,
      origins: DataTypes.JSON,
      isSecret: DataTypes.BOOLEAN,
      createdAt: instant,
      usedAt: instant,
    },
    table(sequelize, 'api_keys', 'created'),
  );
  noteChangesTo(ApiKeyRow, 'api-key', 'id');
}

/** All keys, the oldest first. */
export function allKeys(): Promise<ApiKeyRow[]> {
  return ApiKeyRow.findAll({ order: [['createdAt', 'ASC']] });
}

/** A key, which stays as it is until the transaction ends; null where there is none. */
export function keyRow(id: string, transaction: Transaction): Promise<ApiKeyRow | null> {
  return ApiKeyRow.findByPk(id, { transaction, lock: true });
}

export async function insertKey(
  values: CreationAttributes<ApiKeyRow>,
  transaction: Transaction,
): Promise<ApiKeyRow> {
  const row = await ApiKeyRow.create(values, { transaction });
  return row.reload({ transaction });
}

/** Stores which sites a key is for. */
export async function updateOrigins(
  row: ApiKeyRow,
  origins: string[],
  transaction: Transaction,
): Promise<void> {
  await row.update({ origins }, { transaction });
}

/** Notes when a key was last used. */
export async function setKeyUsed(id: string, usedAt: Date): Promise<void> {
  await inTransaction((transaction) => ApiKeyRow.update({ usedAt }, { where: { id }, transaction }));
}

/** Deletes a key; false where there is none. */
export async function deleteKey(id: string): Promise<boolean> {
  return (await inTransaction((transaction) => ApiKeyRow.destroy({ where: { id }, transaction }))) > 0;
}
