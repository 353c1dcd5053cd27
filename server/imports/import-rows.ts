import type { Connection, ResultSetHeader, RowDataPacket } from 'mysql2/promise';
import type { ImportReport } from '../../contract/imports.ts';
import type { Fields, Stored } from '../../core/exchange/merge.ts';
import { type Cause, contactFrom, fieldsFrom } from '../people/bulk-rows.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import type { Hold } from '../work/hold.ts';
import { holdOn } from '../work/hold-rows.ts';

/** Notes with an import that it is done, in the same transaction as what it does. */
export async function noteDone(
  connection: Connection,
  report: ImportReport,
  cause: Cause,
  changes: NotedChanges,
  hold: Hold | undefined,
): Promise<void> {
  changes.add('import', String(cause.importId));
  if (hold) await holdOn(connection, hold, 1);
  await connection.query(
    "UPDATE imports SET status = 'imported', report = ?, failure = NULL, finishedAt = NOW(3) WHERE id = ?",
    [JSON.stringify(report), cause.importId],
  );
}

/** Notes with an import that it is taken back, in the same transaction as what that does. */
export async function noteUndone(
  connection: Connection,
  report: ImportReport,
  importId: number | null,
  changes: NotedChanges,
  hold: Hold | undefined,
): Promise<void> {
  changes.add('import', String(importId));
  if (hold) await holdOn(connection, hold, 1);
  await connection.query(
    "UPDATE imports SET status = 'undone', report = ?, finishedAt = NOW(3) WHERE id = ?",
    [JSON.stringify(report), importId],
  );
}

/** Deletes who came with an import and was not changed since. Returns how many that are, and how many stay. */
export async function removeWhoCame(
  connection: Connection,
  importId: number | null,
  changes: NotedChanges,
): Promise<{ removed: number; kept: number }> {
  // Who goes is not named: it may be any number.
  changes.add('contact', null);
  const [removed] = await connection.query<ResultSetHeader>(
    `DELETE contacts FROM contacts JOIN contact_changes AS came ON came.contactId = contacts.id
     WHERE came.importId = ? AND came.kind = 'added' AND NOT EXISTS (
       SELECT 1 FROM contact_changes AS later WHERE later.contactId = contacts.id AND later.id > came.id)`,
    [importId],
  );
  const [[kept]] = await connection.query<RowDataPacket[]>(
    "SELECT COUNT(*) AS kept FROM contact_changes WHERE importId = ? AND kind = 'added'",
    [importId],
  );
  return { removed: removed.affectedRows, kept: Number(kept?.kept ?? 0) };
}

/** The last entry of the history by which an import was taken back before; 0 where it never was. */
export async function lastUndone(connection: Connection, importId: number | null): Promise<number> {
  const [[before]] = await connection.query<RowDataPacket[]>(
    "SELECT COALESCE(MAX(id), 0) AS id FROM contact_changes WHERE importId = ? AND source = 'undo'",
    [importId],
  );
  return Number(before?.id ?? 0);
}

interface ChangeRecord extends RowDataPacket {
  changeId: number;
  id: number;
  email: string;
  externalId: string | null;
  values: string | { [attribute: string]: unknown };
  fields: string | Fields;
}

/** The next entries after one of what an import changed, each with its contact as that is now, locked. */
export async function changedBy(
  connection: Connection,
  importId: number | null,
  { after, most }: { readonly after: number; readonly most: number },
): Promise<{ change: number; fields: Fields; now: Stored }[]> {
  const [rows] = await connection.query<ChangeRecord[]>(
    `SELECT contact_changes.id AS changeId, fields, contacts.id, email, externalId, \`values\`
     FROM contact_changes JOIN contacts ON contacts.id = contactId
     WHERE importId = ? AND kind = 'changed' AND source IN ('import', 'together') AND contact_changes.id > ?
     ORDER BY contact_changes.id LIMIT ? FOR UPDATE`,
    [importId, after, most],
  );
  return rows.map((row) => ({
    change: row.changeId,
    fields: fieldsFrom(row.fields),
    now: contactFrom(row),
  }));
}
