import { type QueryInterface, QueryTypes } from 'sequelize';
import { addressKey } from '../../../core/exchange/address-key.ts';
import { foldedTexts } from '../folded-texts.ts';

const atOnce = 1000;

interface Contact {
  id: number;
  email: string;
  values: string | { [attribute: string]: unknown };
}

/**
 * Texts and addresses are compared in the form that the program gives them, stored beside them, no longer by rules of
 * the database. Of two contacts whose addresses are now one, the later one keeps its address and is not found by it.
 */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(
    `ALTER TABLE contacts DROP COLUMN emailKey,
       ADD folded JSON NOT NULL DEFAULT '{}' AFTER \`values\``,
  );
  await sequelize.query(
    'ALTER TABLE contacts ADD emailKey VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL AFTER email',
  );
  const taken = new Set<string>();
  for (let last = 0; ; ) {
    const rows = await sequelize.query<Contact>(
      'SELECT id, email, `values` FROM contacts WHERE id > ? ORDER BY id LIMIT ?',
      { type: QueryTypes.SELECT, replacements: [last, atOnce] },
    );
    if (rows.length === 0) break;
    for (const { id, email, values } of rows) {
      const key = addressKey(email);
      const isTaken = taken.has(key);
      taken.add(key);
      const own = typeof values === 'string' ? JSON.parse(values) : values;
      await sequelize.query(
        'UPDATE contacts SET emailKey = ?, folded = ?, updatedAt = updatedAt WHERE id = ?',
        {
          replacements: [
            isTaken ? `${id} ${key}`.slice(0, 254) : key,
            JSON.stringify(foldedTexts(own, email)),
            id,
          ],
        },
      );
      last = id;
    }
  }
  await sequelize.query(
    'ALTER TABLE contacts MODIFY emailKey VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE',
  );
}
