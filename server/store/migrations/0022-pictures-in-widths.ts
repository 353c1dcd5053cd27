import { DataTypes, type QueryInterface } from 'sequelize';

/** Pictures in the widths that pages ask for, made from the files as they came. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('pictures_in_widths', {
    file: {
      type: DataTypes.STRING(40),
      primaryKey: true,
      references: { model: 'files', key: 'id' },
      onDelete: 'CASCADE',
    },
    width: { type: DataTypes.INTEGER, primaryKey: true },
    bytes: { type: DataTypes.BLOB('medium'), allowNull: false },
  });
}
