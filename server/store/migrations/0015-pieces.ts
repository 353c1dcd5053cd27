import { DataTypes, type QueryInterface } from 'sequelize';

/** Files that come and go with what they are for, in pieces, so that every server has them. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('pieces', {
    owner: { type: DataTypes.STRING(60), primaryKey: true },
    position: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true },
    bytes: { type: DataTypes.BLOB('medium'), allowNull: false },
  });
}
