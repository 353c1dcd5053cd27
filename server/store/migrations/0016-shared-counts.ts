import { DataTypes, type QueryInterface } from 'sequelize';

/** What all servers have to know alike for a short time: how often something was asked, and who has what open. */
export async function up(tables: QueryInterface): Promise<void> {
  const instant = { type: DataTypes.DATE(3), allowNull: false };
  await tables.createTable('limit_counts', {
    name: { type: DataTypes.STRING(64), primaryKey: true },
    hits: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false },
    until: instant,
  });
  await tables.addIndex('limit_counts', ['until']);
  await tables.createTable('presence', {
    documentId: { type: DataTypes.STRING(64), primaryKey: true },
    accountId: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true },
    name: { type: DataTypes.STRING(255), allowNull: false },
    seenAt: instant,
  });
}
