import { DataTypes, type QueryInterface } from 'sequelize';

/** An item says whom lists show it to. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('items', 'listed', { type: DataTypes.JSON, allowNull: true });
}
