import { type QueryInterface, QueryTypes } from 'sequelize';

interface Stored {
  id: string;
  collectionId: string;
  values: string | { [attribute: string]: unknown };
  fields: string | { attribute: { id: string } }[];
}

const read = <Value>(stored: string | Value): Value =>
  typeof stored === 'string' ? JSON.parse(stored) : stored;

/** Takes values of fields that were removed out of the items, which could not be saved with them. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  const rows = await sequelize.query<Stored>(
    'SELECT items.id, items.`values`, collections.fields FROM items JOIN collections ON collections.id = items.collectionId',
    { type: QueryTypes.SELECT },
  );
  for (const row of rows) {
    const known = new Set(read(row.fields).map(({ attribute }) => attribute.id));
    const values = read(row.values);
    const kept = Object.entries(values).filter(([id]) => known.has(id));
    if (kept.length < Object.keys(values).length)
      await sequelize.query('UPDATE items SET `values` = ?, updatedAt = updatedAt WHERE id = ?', {
        replacements: [JSON.stringify(Object.fromEntries(kept)), row.id],
      });
  }
}
