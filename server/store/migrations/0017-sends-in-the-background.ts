import { DataTypes, type QueryInterface } from 'sequelize';

/** A send is worked off recipient by recipient, and may be going on for as long as that takes. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('sends', 'recipients', { type: DataTypes.JSON, allowNull: true });
  await tables.addColumn('sends', 'finishedAt', { type: DataTypes.DATE(3), allowNull: true });
  await tables.addIndex('deliveries', ['sendId', 'status']);
  await tables.sequelize.query("UPDATE deliveries SET status = 'accepted' WHERE status = 'sent'");
  await tables.sequelize.query('UPDATE sends SET finishedAt = createdAt');
}
