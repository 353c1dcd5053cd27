import { DataTypes, type QueryInterface } from 'sequelize';

/** The names under which servers wrote down all contacts for their next start, each with its place in the log of changes. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('contact_images', {
    token: { type: DataTypes.STRING(36), primaryKey: true },
    position: { type: DataTypes.BIGINT.UNSIGNED, allowNull: false },
    at: { type: DataTypes.DATE(3), allowNull: false },
  });
}
