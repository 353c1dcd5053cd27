import type { Connection, RowDataPacket } from 'mysql2/promise';
import type { NotedChanges } from '../store/noted-changes.ts';
import { type Cause, changeContacts, contactFrom, type Write } from './contact-writes.ts';

const atOnce = 1000;

/**
 * Puts the values of one attribute of all contacts through a change, with their history; undefined is no value any more.
 *
 * @returns how many contacts changed
 */
export async function rewriteValues(
  connection: Connection,
  attribute: string,
  change: (value: unknown) => unknown,
  cause: Cause,
  changes: NotedChanges,
): Promise<number> {
  let [last, changed] = [0, 0];
  while (true) {
    const [rows] = await connection.query<(RowDataPacket & Parameters<typeof contactFrom>[0])[]>(
      `SELECT id, email, externalId, \`values\` FROM contacts
       WHERE id > ? AND JSON_EXISTS(\`values\`, ?) ORDER BY id LIMIT ? FOR UPDATE`,
      [last, `$."${attribute}"`, atOnce],
    );
    if (rows.length === 0) return changed;
    const writes: (Write & { id: number })[] = [];
    for (const row of rows) {
      const { id, ...stored } = contactFrom(row);
      last = id;
      const before = stored.values[attribute];
      const now = change(before);
      if (JSON.stringify(now) === JSON.stringify(before)) continue;
      const { [attribute]: _, ...others } = stored.values;
      const values = now === undefined ? others : { ...others, [attribute]: now };
      writes.push({ id, person: { ...stored, values }, fields: { [attribute]: [before, now ?? null] } });
    }
    await changeContacts(connection, writes, cause, changes);
    changed += writes.length;
  }
}

/** Every different value of an attribute as it is stored, with how many contacts have it, most frequent first. */
export async function storedValues(
  connection: Connection,
  attribute: string,
): Promise<{ value: unknown; count: number }[]> {
  const [rows] = await connection.query<(RowDataPacket & { value: string; count: number })[]>(
    `SELECT CAST(JSON_EXTRACT(\`values\`, ?) AS CHAR) AS value, COUNT(*) AS count FROM contacts
     WHERE JSON_EXISTS(\`values\`, ?) GROUP BY value ORDER BY count DESC`,
    [`$."${attribute}"`, `$."${attribute}"`],
  );
  return rows.map(({ value, count }) => ({ value: JSON.parse(value), count: Number(count) }));
}
