import type { ImportReport } from '../../contract/imports.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { Catalogue } from '../../core/attributes/catalogue.ts';
import { unstorable } from '../../core/attributes/parse.ts';
import { emailField, externalIdField, undoFields } from '../../core/exchange/merge.ts';
import { deleteAttribute, restoreAttribute, storedAttributes } from '../people/attribute-rows.ts';
import { type Cause, changeContacts, storedValues, type Write } from '../people/bulk-rows.ts';
import { type Connection, inOwnTransaction } from '../store/connection.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import type { Hold } from '../work/hold.ts';
import type { Progress } from './import-file.ts';
import { changedBy, lastUndone, noteUndone, removeWhoCame } from './import-rows.ts';

const batchSize = 1000;

/** What came with an import and no audience, page or email has come to use since. */
export interface Unused {
  readonly added: readonly Attribute[];
  readonly extended: readonly { readonly before: Attribute; readonly after: Attribute }[];
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
    Object.assign(undone, await removeWhoCame(connection, importId, changes));
    progress(0.5);
    const total = Math.max(1, report.changed);
    const mayHold = await allowedValues(connection);
    // What was done again after it was taken back is all that there is to take back now.
    let last = await lastUndone(connection, importId);
    while (true) {
      const changed = await changedBy(connection, importId, { after: last, most: batchSize });
      if (changed.length === 0) break;
      const writes: (Write & { id: number })[] = [];
      for (const { change, fields, now } of changed) {
        last = change;
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
    await noteUndone(connection, done, importId, changes, hold);
    return done;
  });
}

/** Whether a value may be put back: its attribute may have been deleted since, or be of another type. */
async function allowedValues(connection: Connection): Promise<(field: string, value: unknown) => boolean> {
  const catalogue = new Catalogue(await storedAttributes(connection), 'UTC');
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
  for (const { id } of added)
    if ((await storedValues(connection, id)).length === 0) await deleteAttribute(connection, id, changes);
  for (const { before, after } of extended) {
    const known = new Set(choicesOf(before).map((choice) => choice.id));
    const held = (await storedValues(connection, before.id)).flatMap(({ value }) => value);
    if (held.some((one) => !known.has(String(one)))) continue;
    await restoreAttribute(connection, before, after, changes);
  }
}
