import { DataTypes, type QueryInterface } from 'sequelize';

/** How often each item was opened on the live site, by everybody together. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('item_views', {
    itemId: { type: DataTypes.STRING(64), primaryKey: true },
    views: { type: DataTypes.BIGINT.UNSIGNED, allowNull: false, defaultValue: 0 },
  });
}
