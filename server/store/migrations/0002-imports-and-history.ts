import { DataTypes, literal, type QueryInterface } from 'sequelize';

const instant = () => ({
  type: DataTypes.DATE(3),
  allowNull: false,
  defaultValue: literal('CURRENT_TIMESTAMP(3)'),
});
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });

/** Imports as jobs, contacts known by an id of another system, and what happened to each contact. */
export async function up(tables: QueryInterface): Promise<void> {
  // People are known by their address without regard to case, but those whose addresses differ in accents are two.
  await tables.sequelize.query(
    `ALTER TABLE contacts
       ADD emailKey VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin AS (LOWER(email)) PERSISTENT UNIQUE,
       DROP INDEX email`,
  );
  await tables.sequelize.query(
    'ALTER TABLE contacts ADD externalId VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL UNIQUE AFTER email',
  );
  await tables.createTable('imports', {
    id: { type: DataTypes.INTEGER.UNSIGNED, primaryKey: true, autoIncrement: true },
    name: text(255),
    bytes: { type: DataTypes.BIGINT.UNSIGNED, allowNull: false },
    status: text(20),
    accountName: text(120),
    /** What the file is and what its columns hold. */
    survey: { type: DataTypes.JSON, allowNull: true },
    plan: { type: DataTypes.JSON, allowNull: true },
    /** What the dry run found, then what was done. */
    report: { type: DataTypes.JSON, allowNull: true },
    failure: { type: DataTypes.STRING(1000), allowNull: true },
    createdAt: instant(),
    finishedAt: { type: DataTypes.DATE(3), allowNull: true },
  });
  await tables.createTable('contact_changes', {
    id: { type: DataTypes.BIGINT.UNSIGNED, primaryKey: true, autoIncrement: true },
    contactId: {
      type: DataTypes.INTEGER.UNSIGNED,
      allowNull: false,
      references: { model: 'contacts', key: 'id' },
      onDelete: 'CASCADE',
    },
    at: instant(),
    kind: text(12),
    source: text(12),
    accountName: text(120),
    importId: { type: DataTypes.INTEGER.UNSIGNED, allowNull: true },
    /** By attribute: what was there and what came; of a contact that was added nothing is kept twice. */
    fields: { type: DataTypes.JSON, allowNull: false },
  });
  await tables.addIndex('contact_changes', ['importId']);
}
