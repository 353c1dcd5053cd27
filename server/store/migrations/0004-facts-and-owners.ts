import { DataTypes, literal, type QueryInterface } from 'sequelize';

/** What is stated to hold for every contact, and who an audience belongs to. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('facts', {
    id: { type: DataTypes.STRING(64), primaryKey: true },
    who: { type: DataTypes.JSON, allowNull: false },
    also: { type: DataTypes.JSON, allowNull: false },
    accountName: { type: DataTypes.STRING(120), allowNull: false },
    revision: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 1 },
    createdAt: {
      type: DataTypes.DATE(3),
      allowNull: false,
      defaultValue: literal('CURRENT_TIMESTAMP(3)'),
    },
  });
  await tables.addColumn('audiences', 'ownerName', {
    type: DataTypes.STRING(120),
    allowNull: false,
    defaultValue: '',
  });
  // Of those that are there, whoever stored the first version that is known.
  await tables.sequelize.query(
    `UPDATE audiences SET ownerName = COALESCE(
       (SELECT versions.accountName FROM audience_versions AS versions
        WHERE versions.audienceId = audiences.id AND versions.accountName <> '' ORDER BY versions.id LIMIT 1),
       accountName)`,
  );
}
