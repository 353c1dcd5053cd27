import { DataTypes, type QueryInterface } from 'sequelize';

/** Files that are kept for a while only say since when they are there. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('pieces', 'storedAt', { type: DataTypes.DATE(3), allowNull: true });
}
