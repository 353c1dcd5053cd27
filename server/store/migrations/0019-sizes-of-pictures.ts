import { imageSize } from 'image-size';
import { DataTypes, type QueryInterface, QueryTypes } from 'sequelize';

/** Pictures say how large they are, those that are there already too. */
export async function up(tables: QueryInterface): Promise<void> {
  for (const column of ['width', 'height'])
    await tables.addColumn('files', column, { type: DataTypes.INTEGER, allowNull: true });
  const { sequelize } = tables;
  const files = await sequelize.query<{ id: string }>("SELECT id FROM files WHERE type LIKE 'image/%'", {
    type: QueryTypes.SELECT,
  });
  for (const { id } of files) {
    const [file] = await sequelize.query<{ bytes: Buffer }>('SELECT bytes FROM files WHERE id = ?', {
      replacements: [id],
      type: QueryTypes.SELECT,
    });
    const size = file && sizeOf(file.bytes);
    if (size)
      await sequelize.query('UPDATE files SET width = ?, height = ? WHERE id = ?', {
        replacements: [size.width, size.height, id],
        type: QueryTypes.UPDATE,
      });
  }
}

function sizeOf(bytes: Buffer): { width: number; height: number } | undefined {
  try {
    const { width, height, orientation = 1 } = imageSize(bytes);
    return orientation >= 5 ? { width: height, height: width } : { width, height };
  } catch {
    return undefined;
  }
}
