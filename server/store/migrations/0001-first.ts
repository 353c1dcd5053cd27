import { DataTypes, literal, type QueryInterface } from 'sequelize';

// Made anew for each column, since Sequelize writes the column's name into the object it is given.
const id = () => ({ type: DataTypes.STRING(64), primaryKey: true, allowNull: false });
const serial = () => ({ type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true });
const instant = () => ({
  type: DataTypes.DATE(3),
  allowNull: false,
  defaultValue: literal('CURRENT_TIMESTAMP(3)'),
});
const json = () => ({ type: DataTypes.JSON, allowNull: false });
const revision = () => ({ type: DataTypes.INTEGER.UNSIGNED, allowNull: false, defaultValue: 1 });
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });

export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('accounts', {
    id: serial(),
    email: { ...text(254), unique: true },
    name: text(120),
    passwordHash: text(255),
    createdAt: instant(),
  });
  await tables.createTable('attributes', {
    id: id(),
    position: { type: DataTypes.INTEGER, allowNull: false },
    definition: json(),
  });
  await tables.createTable('contacts', {
    id: serial(),
    email: { ...text(254), unique: true },
    name: text(250),
    values: json(),
    unsubscribedAt: { type: DataTypes.DATE(3), allowNull: true },
    createdAt: instant(),
    updatedAt: instant(),
  });
  await tables.addIndex('contacts', ['name']);
  await tables.createTable('site_accounts', {
    contactId: {
      type: DataTypes.INTEGER.UNSIGNED,
      primaryKey: true,
      references: { model: 'contacts', key: 'id' },
      onDelete: 'CASCADE',
    },
    passwordHash: { type: DataTypes.STRING(255), allowNull: true },
    createdAt: instant(),
  });
  await tables.createTable('audiences', {
    id: id(),
    name: { ...text(120), unique: true },
    description: text(500),
    condition: json(),
    revision: revision(),
    createdAt: instant(),
    updatedAt: instant(),
  });
  await tables.createTable('documents', {
    id: id(),
    kind: text(10),
    name: text(120),
    slug: text(80),
    content: { type: DataTypes.JSON, allowNull: false },
    revision: revision(),
    createdAt: instant(),
    updatedAt: instant(),
  });
  await tables.addConstraint('documents', {
    type: 'unique',
    fields: ['kind', 'slug'],
    name: 'documents_slug',
  });
  await tables.createTable('releases', {
    id: serial(),
    note: text(500),
    accountName: text(120),
    changes: json(),
    snapshot: json(),
    createdAt: instant(),
  });
  await tables.createTable('settings', { key: id(), value: json() });
  await tables.createTable('sends', {
    id: serial(),
    documentId: text(64),
    documentName: text(120),
    releaseId: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false },
    accountName: text(120),
    createdAt: instant(),
  });
  await tables.createTable('deliveries', {
    id: serial(),
    sendId: {
      type: DataTypes.INTEGER.UNSIGNED,
      allowNull: false,
      references: { model: 'sends', key: 'id' },
      onDelete: 'CASCADE',
    },
    contactId: { type: DataTypes.INTEGER.UNSIGNED, allowNull: false },
    email: text(254),
    status: text(20),
    reason: text(500),
    createdAt: instant(),
  });
  await tables.createTable('standin_mailbox', {
    id: serial(),
    recipient: text(254),
    subject: text(998),
    raw: { type: DataTypes.BLOB('medium'), allowNull: false },
    createdAt: instant(),
  });
  await tables.createTable('sessions', {
    sid: { type: DataTypes.STRING(36), primaryKey: true },
    expires: DataTypes.DATE,
    data: DataTypes.TEXT,
    createdAt: { type: DataTypes.DATE, allowNull: false },
    updatedAt: { type: DataTypes.DATE, allowNull: false },
  });
}
