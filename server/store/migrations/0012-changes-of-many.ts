import { DataTypes, type QueryInterface } from 'sequelize';

/** Changes of many contacts at once stand among the imports, as they are tried, done and taken back alike. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('imports', 'change', { type: DataTypes.JSON, allowNull: true });
}
