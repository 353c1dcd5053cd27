import type { QueryInterface } from 'sequelize';

const columns = {
  audiences: ['condition'],
  audience_versions: ['condition'],
  facts: ['who', 'also'],
  documents: ['content'],
  releases: ['snapshot'],
};

/**
 * What people nest is kept as text. The JSON of MariaDB takes 32 levels, which three sections in each other with a list
 * in them already pass.
 */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const [table, names] of Object.entries(columns))
    for (const name of names)
      await sequelize.query(
        `ALTER TABLE ${table} MODIFY \`${name}\` LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL`,
      );
}
