import {
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  Model,
  type Sequelize,
} from 'sequelize';
import { id, table } from './columns.ts';
import { noteChangesTo } from './noted-changes.ts';

export class SettingRow extends Model<InferAttributes<SettingRow>, InferCreationAttributes<SettingRow>> {
  declare key: string;
  declare value: unknown;
}

/** Ties the tables to a connection. */
export function defineSettings(sequelize: Sequelize): void {
  SettingRow.init({ key: id(), value: DataTypes.JSON }, table(sequelize, 'settings', 'none'));
  noteChangesTo(SettingRow, 'setting', 'key');
}

/** The value of a setting; undefined where it was never set. */
export async function settingOf(key: string): Promise<unknown> {
  return (await SettingRow.findByPk(key))?.value;
}
