import { readFile } from 'node:fs/promises';
import type { Connection, RowDataPacket } from 'mysql2/promise';
import { type ImportReport, shownOfEach } from '../../contract/imports.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { type BulkChange, changedBy } from '../../core/exchange/bulk-change.ts';
import { type Cause, changeContacts, contactFrom, type Write } from '../store/contact-writes.ts';
import type { Progress } from './import-file.ts';
import { emptyReport, type Imported, mostNamed, noteDone } from './import-people.ts';

const batchSize = 1000;

export interface ChangeTask {
  /** A file of the ids of those that are changed, one a line. */
  readonly path: string;
  readonly attribute: Attribute;
  readonly change: BulkChange;
  readonly cause: Cause;
}

interface Row extends RowDataPacket {
  id: number;
  email: string;
  externalId: string | null;
  values: string | { [attribute: string]: unknown };
}

/** What a change of many contacts would do, without doing it. */
export async function tryChange(
  connection: Connection,
  task: ChangeTask,
  progress: Progress,
): Promise<ImportReport> {
  return (await goThrough(connection, task, false, progress)).report;
}

/** Changes many contacts, in one transaction together with the note that it is done. */
export async function runChange(
  connection: Connection,
  task: ChangeTask,
  progress: Progress,
): Promise<Imported> {
  await connection.beginTransaction();
  try {
    const done = await goThrough(connection, task, true, progress);
    await noteDone(connection, done.report, task.cause);
    await connection.commit();
    return done;
  } catch (error) {
    await connection.rollback();
    throw error;
  }
}

async function goThrough(
  connection: Connection,
  { path, attribute, change, cause }: ChangeTask,
  write: boolean,
  progress: Progress,
): Promise<Imported> {
  const wanted = (await readFile(path, 'utf8')).split('\n').filter(Boolean).map(Number);
  const report = emptyReport();
  const { samples } = report;
  const ids: number[] = [];
  for (let start = 0; start < wanted.length; start += batchSize) {
    const [rows] = await connection.query<Row[]>(
      `SELECT id, email, externalId, \`values\` FROM contacts WHERE id IN (?)${write ? ' FOR UPDATE' : ''}`,
      [wanted.slice(start, start + batchSize)],
    );
    const writes: (Write & { id: number })[] = [];
    for (const row of rows) {
      const stored = contactFrom(row);
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
    if (write) await changeContacts(connection, writes, cause);
    ids.push(...writes.map(({ id }) => id));
    progress(Math.min(1, (start + batchSize) / wanted.length));
  }
  return { report, ids: ids.length > mostNamed ? null : ids };
}
