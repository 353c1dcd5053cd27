import { DataTypes, type Model, type Sequelize } from 'sequelize';

// Made anew for each column, since Sequelize writes the column's name into the object it is given.
export const id = () => ({ type: DataTypes.STRING(64), primaryKey: true });
export const serial = () => ({ type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true });
export const string = DataTypes.STRING;
export const instant = DataTypes.DATE(3);
export const revision = () => ({ type: DataTypes.INTEGER.UNSIGNED, defaultValue: 1 });

/**
 * A column of what may be nested as deep as people make it, kept as text: the JSON of the database ends at 32 levels. It is
 * read through a row only; a raw query gives the text.
 */
export const nested = (column: string) => ({
  type: DataTypes.TEXT('long'),
  get(this: Model): unknown {
    const text: unknown = this.getDataValue(column);
    return typeof text === 'string' ? JSON.parse(text) : text;
  },
  set(this: Model, value: unknown): void {
    this.setDataValue(column, value === null || value === undefined ? value : JSON.stringify(value));
  },
});

/** What ties a table to a connection; one process uses one database at a time. */
export const table = (sequelize: Sequelize, tableName: string, timestamps: 'none' | 'created' | 'both') => ({
  sequelize,
  tableName,
  timestamps: timestamps !== 'none',
  updatedAt: timestamps === 'both',
});
