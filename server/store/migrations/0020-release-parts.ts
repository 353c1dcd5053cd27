import { DataTypes, type QueryInterface, QueryTypes } from 'sequelize';
import { takeApart } from '../../releases/parts.ts';

/** Each version of a document, an audience and so on is stored once, and releases name the versions that they hold. */
export async function up(tables: QueryInterface): Promise<void> {
  await tables.createTable('release_parts', {
    hash: { type: DataTypes.STRING(64), primaryKey: true },
    content: { type: DataTypes.TEXT('long'), allowNull: false },
    unusedSince: { type: DataTypes.DATE(3), allowNull: true },
  });
  await tables.addColumn('releases', 'contents', { type: DataTypes.TEXT('long'), allowNull: true });
  const { sequelize } = tables;
  const releases = await sequelize.query<{ id: number }>('SELECT id FROM releases ORDER BY id', {
    type: QueryTypes.SELECT,
  });
  for (const { id } of releases) {
    const [row] = await sequelize.query<{ snapshot: string }>('SELECT snapshot FROM releases WHERE id = ?', {
      replacements: [id],
      type: QueryTypes.SELECT,
    });
    const { contents, parts } = takeApart(Object(JSON.parse(row?.snapshot ?? '{}')));
    for (const [hash, content] of parts)
      await sequelize.query('INSERT IGNORE INTO release_parts (hash, content) VALUES (?, ?)', {
        replacements: [hash, content],
        type: QueryTypes.INSERT,
      });
    await sequelize.query('UPDATE releases SET contents = ? WHERE id = ?', {
      replacements: [JSON.stringify(contents), id],
      type: QueryTypes.UPDATE,
    });
  }
  await tables.removeColumn('releases', 'snapshot');
}
