import { readFile } from 'node:fs/promises';
import { type ImportReport, shownOfEach } from '../../contract/imports.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { type BulkChange, changedBy } from '../../core/exchange/bulk-change.ts';
import { type Cause, changeContacts, contactsById, type Write } from '../people/bulk-rows.ts';
import { type Connection, inOwnTransaction } from '../store/connection.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import type { Hold } from '../work/hold.ts';
import type { Progress } from './import-file.ts';
import { emptyReport } from './import-people.ts';
import { noteDone } from './import-rows.ts';

const batchSize = 1000;

export interface ChangeTask {
  /** A file of the ids of those that are changed, one a line. */
  readonly path: string;
  readonly attribute: Attribute;
  readonly change: BulkChange;
  readonly cause: Cause;
}

/** What a change of many contacts would do, without doing it. */
export function tryChange(
  connection: Connection,
  task: ChangeTask,
  progress: Progress,
): Promise<ImportReport> {
  return goThrough(connection, task, undefined, progress);
}

/** Changes many contacts, in one transaction together with the note that it is done. */
export function runChange(
  connection: Connection,
  task: ChangeTask,
  progress: Progress,
  hold?: Hold,
): Promise<ImportReport> {
  return inOwnTransaction(connection, async (_connection, changes) => {
    const report = await goThrough(connection, task, changes, progress);
    await noteDone(connection, report, task.cause, changes, hold);
    return report;
  });
}

/** @param changes where what is written is noted; undefined to write nothing */
async function goThrough(
  connection: Connection,
  { path, attribute, change, cause }: ChangeTask,
  changes: NotedChanges | undefined,
  progress: Progress,
): Promise<ImportReport> {
  const wanted = (await readFile(path, 'utf8')).split('\n').filter(Boolean).map(Number);
  const report = emptyReport();
  const { samples } = report;
  for (let start = 0; start < wanted.length; start += batchSize) {
    const ids = wanted.slice(start, start + batchSize);
    const writes: (Write & { id: number })[] = [];
    for (const stored of await contactsById(connection, ids, changes !== undefined)) {
      const changed = changedBy(stored, attribute, change);
      const shown = { row: ++report.rows, email: stored.email };
      if (changed) {
        report.changed++;
        if (samples.changed.length < shownOfEach) {
          const fields = Object.fromEntries(
            Object.entries(changed.fields).map(([field, [before, now]]): [string, [unknown, unknown]] => [
              field,
              [before, now],
            ]),
          );
          samples.changed.push({ ...shown, fields });
        }
        writes.push({ id: stored.id, ...changed });
      } else {
        report.unchanged++;
        if (samples.unchanged.length < shownOfEach) samples.unchanged.push(shown);
      }
    }
    if (changes) await changeContacts(connection, writes, cause, changes);
    progress(Math.min(1, (start + batchSize) / wanted.length));
  }
  return report;
}
