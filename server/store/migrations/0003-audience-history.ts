import { DataTypes, literal, type QueryInterface } from 'sequelize';

/** Who changed an audience last and how it was before, whether it is put away, and the examples it is held to. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('audiences', 'accountName', {
    type: DataTypes.STRING(120),
    allowNull: false,
    defaultValue: '',
  });
  await tables.addColumn('audiences', 'archivedAt', { type: DataTypes.DATE(3), allowNull: true });
  // In SQL, since Sequelize leaves the default of a JSON column out.
  await tables.sequelize.query("ALTER TABLE audiences ADD examples JSON NOT NULL DEFAULT '[]'");
  await tables.createTable('audience_versions', {
    id: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true },
    audienceId: {
      type: DataTypes.STRING(64),
      allowNull: false,
      references: { model: 'audiences', key: 'id' },
      onDelete: 'CASCADE',
    },
    at: { type: DataTypes.DATE(3), allowNull: false, defaultValue: literal('CURRENT_TIMESTAMP(3)') },
    accountName: { type: DataTypes.STRING(120), allowNull: false },
    name: { type: DataTypes.STRING(120), allowNull: false },
    description: { type: DataTypes.STRING(500), allowNull: false },
    condition: { type: DataTypes.JSON, allowNull: false },
  });
}
