import type { Connection, ResultSetHeader, RowDataPacket } from 'mysql2/promise';
import type { ImportReport } from '../../contract/imports.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { unstorable } from '../../core/attributes/parse.ts';
import {
  emailField,
  externalIdField,
  type Fields,
  type Stored,
  undoFields,
} from '../../core/exchange/merge.ts';
import { type Cause, changeContacts, contactFrom, type Write } from '../people/contact-writes.ts';
import { storedValues } from '../people/rewrite-values.ts';
import { inOwnTransaction } from '../store/connection.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import { type Hold, holdOn } from '../work/hold.ts';
import type { Progress } from './import-file.ts';

const batchSize = 1000;

/** What came with an import and no audience, page or email has come to use since. */
export interface Unused {
  readonly added: readonly Attribute[];
  readonly extended: readonly { readonly before: Attribute; readonly after: Attribute }[];
}

interface Record extends RowDataPacket {
  changeId: number;
  id: number;
  email: string;
  externalId: string | null;
  values: string | { [attribute: string]: unknown };
  fields: string | Fields;
}

/**
 * Takes an import back, in one transaction: who came with it goes, who was changed by it is as before. What was changed
 * again since by somebody else stays as it is now.
 */
export function undoImport(
  connection: Connection,
  cause: Cause,
  report: ImportReport,
  unused: Unused,
  progress: Progress,
  hold?: Hold,
): Promise<ImportReport> {
  const { importId } = cause;
  const undone = { removed: 0, restored: 0, kept: 0 };
  return inOwnTransaction(connection, async (_connection, changes) => {
    // Who goes is not named: it may be any number.
    changes.add('contact', null);
    changes.add('import', String(importId));
    const [removed] = await connection.query<ResultSetHeader>(
      `DELETE contacts FROM contacts JOIN contact_changes AS came ON came.contactId = contacts.id
       WHERE came.importId = ? AND came.kind = 'added' AND NOT EXISTS (
         SELECT 1 FROM contact_changes AS later WHERE later.contactId = contacts.id AND later.id > came.id)`,
      [importId],
    );
    undone.removed = removed.affectedRows;
    progress(0.5);
    const [[kept]] = await connection.query<RowDataPacket[]>(
      "SELECT COUNT(*) AS kept FROM contact_changes WHERE importId = ? AND kind = 'added'",
      [importId],
    );
    undone.kept = Number(kept?.kept ?? 0);
    const total = Math.max(1, report.changed);
    const mayHold = await allowedValues(connection);
    // What was done again after it was taken back is all that there is to take back now.
    const [[before]] = await connection.query<RowDataPacket[]>(
      "SELECT COALESCE(MAX(id), 0) AS id FROM contact_changes WHERE importId = ? AND source = 'undo'",
      [importId],
    );
    let last = Number(before?.id ?? 0);
    while (true) {
      const [rows] = await connection.query<Record[]>(
        `SELECT contact_changes.id AS changeId, fields, contacts.id, email, externalId, \`values\`
         FROM contact_changes JOIN contacts ON contacts.id = contactId
         WHERE importId = ? AND kind = 'changed' AND source IN ('import', 'together') AND contact_changes.id > ?
         ORDER BY contact_changes.id LIMIT ? FOR UPDATE`,
        [importId, last, batchSize],
      );
      if (rows.length === 0) break;
      const writes: (Write & { id: number })[] = [];
      for (const row of rows) {
        last = row.changeId;
        const now: Stored = contactFrom(row);
        const fields: Fields = typeof row.fields === 'string' ? JSON.parse(row.fields) : row.fields;
        const { person, kept: fieldsKept } = undoFields(now, fields, mayHold);
        if (fieldsKept.length > 0) undone.kept++;
        else undone.restored++;
        const turned = Object.entries(fields).filter(([field]) => !fieldsKept.includes(field));
        writes.push({
          id: now.id,
          person,
          fields: Object.fromEntries(turned.map(([field, [before, after]]) => [field, [after, before]])),
        });
      }
      await changeContacts(connection, writes, { ...cause, source: 'undo' }, changes);
      progress(0.5 + (0.5 * undone.restored) / total);
    }
    await restoreAttributes(connection, unused, changes);
    const done: ImportReport = { ...report, undone };
    if (hold) await holdOn(connection, hold, 1);
    await connection.query(
      "UPDATE imports SET status = 'undone', report = ?, finishedAt = NOW(3) WHERE id = ?",
      [JSON.stringify(done), importId],
    );
    return done;
  });
}

/** Whether a value may be put back: its attribute may have been deleted since, or be of another type. */
async function allowedValues(connection: Connection): Promise<(field: string, value: unknown) => boolean> {
  const [rows] = await connection.query<(RowDataPacket & { definition: string | Attribute })[]>(
    'SELECT definition FROM attributes',
  );
  const own = rows.map(
    ({ definition }): Attribute => (typeof definition === 'string' ? JSON.parse(definition) : definition),
  );
  const catalogue = new Catalogue(own, 'UTC');
  return (field, value) => {
    if (field === emailField || field === externalIdField) return true;
    const attribute = catalogue.get(field);
    return attribute !== undefined && unstorable(attribute, value) === undefined;
  };
}

/** Takes attributes and choices away again that nobody has a value of. */
async function restoreAttributes(
  connection: Connection,
  { added, extended }: Unused,
  changes: NotedChanges,
): Promise<void> {
  for (const { id } of added) changes.add('attribute', id);
  for (const { before } of extended) changes.add('attribute', before.id);
  for (const { id } of added)
    if ((await storedValues(connection, id)).length === 0)
      await connection.query('DELETE FROM attributes WHERE id = ?', [id]);
  for (const { before, after } of extended) {
    const known = new Set(choicesOf(before).map((choice) => choice.id));
    const held = (await storedValues(connection, before.id)).flatMap(({ value }) => value);
    if (held.some((one) => !known.has(String(one)))) continue;
    // Only what the import made of it: a change by somebody else since then stays.
    await connection.query('UPDATE attributes SET definition = ? WHERE id = ? AND definition = ?', [
      JSON.stringify(before),
      before.id,
      JSON.stringify(after),
    ]);
  }
}
