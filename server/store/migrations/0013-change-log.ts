import { DataTypes, type QueryInterface } from 'sequelize';

/**
 * What was changed, written in the same transaction as the change. The position is given once the transaction is
 * committed; the table beside it holds the last one given.
 */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('changes', {
    id: { type: DataTypes.BIGINT.UNSIGNED, primaryKey: true, autoIncrement: true },
    kind: { type: DataTypes.STRING(20), allowNull: false },
    entity: { type: DataTypes.STRING(64), allowNull: true },
    entities: { type: DataTypes.TEXT('medium'), allowNull: true },
    revision: { type: DataTypes.INTEGER.UNSIGNED, allowNull: true },
    at: { type: DataTypes.DATE(3), allowNull: false },
    position: { type: DataTypes.BIGINT.UNSIGNED, allowNull: true, unique: true },
  });
  await tables.addIndex('changes', ['at']);
  await tables.createTable('change_position', {
    id: { type: DataTypes.TINYINT.UNSIGNED, primaryKey: true },
    last: { type: DataTypes.BIGINT.UNSIGNED, allowNull: false },
  });
  await tables.bulkInsert('change_position', [{ id: 1, last: 0 }]);
}
