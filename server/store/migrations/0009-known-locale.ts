import { type QueryInterface, QueryTypes } from 'sequelize';

/**
 * Before this version the language of the site could be anything, such as `en_GB`, in which no date can be written: every
 * page then failed. It becomes British English.
 */
export async function up(tables: QueryInterface): Promise<void> {
  const rows = await tables.sequelize.query<{ value: string | { locale?: unknown } }>(
    "SELECT value FROM settings WHERE `key` = 'site'",
    { type: QueryTypes.SELECT },
  );
  const [row] = rows;
  if (!row) return;
  const settings: { locale?: unknown } = typeof row.value === 'string' ? JSON.parse(row.value) : row.value;
  if (isKnown(settings.locale)) return;
  await tables.sequelize.query("UPDATE settings SET value = ? WHERE `key` = 'site'", {
    replacements: [JSON.stringify({ ...settings, locale: 'en-GB' })],
  });
}

function isKnown(locale: unknown): boolean {
  try {
    return typeof locale === 'string' && Intl.NumberFormat.supportedLocalesOf(locale).length > 0;
  } catch {
    return false;
  }
}
