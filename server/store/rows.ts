import type { Connection } from 'mysql2/promise';
import {
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
  type Transaction,
} from 'sequelize';
import { id, table } from './columns.ts';
import { type NotedChanges, noteChangesTo } from './noted-changes.ts';

export class SettingRow extends Model<InferAttributes<SettingRow>, InferCreationAttributes<SettingRow>> {
  declare key: string;
  declare value: unknown;
}

/** Ties the tables to a connection. */
export function defineSettings(sequelize: Sequelize): void {
  SettingRow.init({ key: id(), value: DataTypes.JSON }, table(sequelize, 'settings', 'none'));
  noteChangesTo(SettingRow, 'setting', 'key');
}

/** The value of a setting; within a transaction it stays as it is until that ends. Undefined where it was never set. */
export async function settingOf(key: string, transaction?: Transaction): Promise<unknown> {
  return (await SettingRow.findByPk(key, transaction && { transaction, lock: true }))?.value;
}

export async function storeSetting(key: string, value: unknown, transaction: Transaction): Promise<void> {
  await SettingRow.upsert({ key, value }, { transaction });
}

/** As {@link storeSetting}, on a connection of its own. */
export async function storeSettingOn(
  connection: Connection,
  key: string,
  value: unknown,
  changes: NotedChanges,
): Promise<void> {
  changes.add('setting', key);
  await connection.query(
    'INSERT INTO settings (`key`, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)',
    [key, JSON.stringify(value)],
  );
}
