import { DataTypes, literal, type QueryInterface } from 'sequelize';

const instant = () => ({
  type: DataTypes.DATE(3),
  allowNull: false,
  defaultValue: literal('CURRENT_TIMESTAMP(3)'),
});
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const key = () => ({ type: DataTypes.STRING(64), primaryKey: true });
const revision = () => ({ type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 1 });

/** Collections with their items and files, who may open a page, and the keys of programs that ask for decisions. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.addColumn('documents', 'access', { type: DataTypes.JSON, allowNull: true });
  await tables.addColumn('documents', 'collectionId', { type: DataTypes.STRING(64), allowNull: true });
  await tables.createTable('collections', {
    id: key(),
    name: text(120),
    slug: { ...text(80), unique: true },
    fields: { type: DataTypes.JSON, allowNull: false },
    access: { type: DataTypes.STRING(64), allowNull: true },
    locked: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    revision: revision(),
    createdAt: instant(),
    updatedAt: instant(),
  });
  await tables.createTable('items', {
    id: key(),
    collectionId: {
      ...text(64),
      references: { model: 'collections', key: 'id' },
      onDelete: 'CASCADE',
    },
    slug: text(80),
    title: text(200),
    teaser: text(500),
    values: { type: DataTypes.JSON, allowNull: false },
    access: { type: DataTypes.STRING(64), allowNull: true },
    publishFrom: { type: DataTypes.DATE(3), allowNull: true },
    publishUntil: { type: DataTypes.DATE(3), allowNull: true },
    position: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    revision: revision(),
    createdAt: instant(),
    updatedAt: instant(),
  });
  await tables.addIndex('items', ['collectionId', 'slug'], { unique: true });
  await tables.createTable('files', {
    id: { type: DataTypes.STRING(40), primaryKey: true },
    name: text(255),
    type: text(100),
    bytes: { type: DataTypes.BLOB('medium'), allowNull: false },
    createdAt: instant(),
  });
  await tables.createTable('api_keys', {
    id: { type: DataTypes.STRING(40), primaryKey: true },
    name: text(120),
    /** Of the key itself only what it is recognised by is kept. */
    keyHash: { ...text(64), unique: true },
    /** Sites whose pages may ask from the browser; programs on a server send none. */
    origins: { type: DataTypes.JSON, allowNull: false },
    /** Whether it may name a contact by address or id, as only a server may. */
    isSecret: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    createdAt: instant(),
    usedAt: { type: DataTypes.DATE(3), allowNull: true },
  });
}
