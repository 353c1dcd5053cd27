import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import { type FileSurvey, type ImportReport, shownOfEach } from '../../contract/imports.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import { mergeIncoming } from '../../core/exchange/merge.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { type Incoming, Reading, type Rejected } from '../../core/exchange/reading.ts';
import type { SourceRecord } from '../../core/exchange/source.ts';
import { csvRow } from '../../core/exchange/write.ts';
import { insertAttributes, updateAttribute } from '../people/attribute-rows.ts';
import { addContacts, type Cause, changeContacts, storedContacts, type Write } from '../people/bulk-rows.ts';
import { type Connection, inOwnTransaction } from '../store/connection.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import type { Hold } from '../work/hold.ts';
import { openFile, type Progress } from './import-file.ts';
import { noteDone } from './import-rows.ts';

export interface ImportTask {
  readonly path: string;
  readonly bytes: number;
  readonly survey: FileSurvey;
  readonly plan: ImportPlan;
  readonly attributes: readonly Attribute[];
  readonly cause: Cause;
}

/** What an import would do, without doing it. What it would leave out is written to a file of its own. */
export async function checkImport(
  connection: Connection,
  task: ImportTask,
  rejectedPath: string,
  progress: Progress,
): Promise<ImportReport> {
  const file = createWriteStream(rejectedPath);
  const headers = task.survey.columns.map(({ header }) => header);
  file.write(`\uFEFF${csvRow([...headers, 'row in the file', 'what was left out', 'why it was left out'])}`);
  const report = await goThrough(connection, task, undefined, progress, (what, rejected) => {
    const { row, column, reason, cells } = rejected;
    const why = column === undefined ? reason : `${column}: ${reason}`;
    file.write(csvRow([...headers.map((_, at) => cells[at] ?? ''), String(row), `the ${what}`, why]));
  });
  file.end();
  await finished(file);
  return report;
}

/**
 * Does an import, in one transaction together with the note that it is done.
 *
 * @param hold the job that it is part of: nothing is stored where another process has that by the end
 */
export function runImport(
  connection: Connection,
  task: ImportTask,
  progress: Progress,
  hold?: Hold,
): Promise<ImportReport> {
  return inOwnTransaction(connection, async (_connection, changes) => {
    const { added, extended } = new Reading(task.plan, task.survey.columns, task.attributes);
    await insertAttributes(connection, added, changes);
    for (const attribute of extended) await updateAttribute(connection, attribute, changes);
    const report = await goThrough(connection, task, changes, progress, () => {});
    const before = new Map(task.attributes.map((attribute) => [attribute.id, attribute]));
    report.attributes = {
      added,
      extended: extended.map((after) => ({ before: before.get(after.id) ?? after, after })),
    };
    await noteDone(connection, report, task.cause, changes, hold);
    return report;
  });
}

/** @param changes where what is written is noted; undefined to write nothing */
async function goThrough(
  connection: Connection,
  { path, bytes, survey, plan, attributes, cause }: ImportTask,
  changes: NotedChanges | undefined,
  progress: Progress,
  leaveOut: (what: 'row' | 'cell', rejected: Rejected) => void,
): Promise<ImportReport> {
  const reading = new Reading(plan, survey.columns, attributes);
  const [problem] = reading.problems;
  if (problem) throw new Error(`${problem.path}: ${problem.message}`);
  const report = emptyReport();
  let writing = Promise.resolve();
  const source = await openFile(path, survey.kind, survey.encoding, (read) =>
    progress(read / Math.max(1, bytes)),
  );
  const placed = inSurveyedOrder(source.headers, survey);
  const causes = new Map<string, number>();
  /** What one batch leaves out; it is sorted by row before it is reported. */
  const left: ['row' | 'cell', Rejected][] = [];
  const refuse = (rejected: Rejected) => {
    report.rejected++;
    const { row, email, column = null, reason } = rejected;
    if (column !== null) causes.set(column, (causes.get(column) ?? 0) + 1);
    if (report.samples.rejected.length < shownOfEach)
      report.samples.rejected.push({ row, email, column, reason });
    left.push(['row', rejected]);
  };
  const noteCells = ({ row, email = '', unreadable = [] }: Incoming, cells: readonly string[]) => {
    for (const { column, reason } of unreadable) {
      report.cells++;
      if (report.samples.cells.length < shownOfEach)
        report.samples.cells.push({ row, email, column, reason });
      left.push(['cell', { row, email, column, reason, cells }]);
    }
  };
  for await (const batch of source.batches) {
    const incoming: { one: Incoming; cells: readonly string[] }[] = [];
    for (const raw of batch) {
      const record = placed(raw);
      report.rows++;
      const read = reading.read(record);
      if ('reason' in read) refuse(read);
      else incoming.push({ one: read, cells: record.cells });
    }
    const { byAddress, byId } = await storedContacts(
      connection,
      incoming.flatMap(({ one }) => one.email ?? []),
      incoming.flatMap(({ one }) => one.externalId ?? []),
      changes !== undefined,
    );
    const added: Write[] = [];
    const changed: (Write & { id: number })[] = [];
    for (const { one, cells } of incoming) {
      const { row, email = '', externalId } = one;
      const address = byAddress.get(addressKey(email));
      const known = externalId === undefined ? undefined : byId.get(externalId);
      const merged = mergeIncoming(one, address, known, plan, reading.given);
      if (merged.kind === 'rejected') {
        refuse({ row, email, column: undefined, reason: merged.reason, cells });
        continue;
      }
      noteCells(one, cells);
      report[merged.kind]++;
      const sample = report.samples[merged.kind];
      if (merged.kind === 'unchanged') {
        if (sample.length < shownOfEach) report.samples.unchanged.push({ row, email });
        continue;
      }
      const { person, fields } = merged;
      if (sample.length < shownOfEach)
        report.samples[merged.kind].push({ row, email: person.email, fields: { ...fields } as Shown });
      const id = (plan.matchBy === 'email' ? address : known)?.id;
      if (id === undefined) added.push({ person, fields });
      else changed.push({ id, person, fields });
    }
    left.sort(([, one], [, other]) => one.row - other.row);
    for (const [what, rejected] of left.splice(0)) leaveOut(what, rejected);
    if (!changes) continue;
    // While the database writes one batch, the next is read.
    await writing;
    writing = addContacts(connection, added, cause, changes).then(() =>
      changeContacts(connection, changed, cause, changes),
    );
    // A failure is thrown where it is waited for, not before.
    writing.catch(() => {});
  }
  await writing;
  report.causes = [...causes]
    .map(([column, rows]) => ({ column, rows }))
    .sort((one, two) => two.rows - one.rows);
  return report;
}

type Shown = ImportReport['samples']['added'][number]['fields'];

/**
 * Columns of cards and JSON objects are numbered as they occur, and a file is read twice: its columns stand where they
 * were when it was looked at, as it has not changed since.
 */
function inSurveyedOrder(headers: readonly string[], { columns }: FileSurvey) {
  const places = new Map(columns.map(({ header }, at) => [header, at]));
  return (record: SourceRecord): SourceRecord => {
    if (headers.every((header, at) => columns[at]?.header === header)) return record;
    const cells: string[] = [];
    for (const [at, cell] of record.cells.entries()) {
      const place = places.get(headers[at] ?? '');
      if (place !== undefined && cell !== undefined) cells[place] = cell;
    }
    return { ...record, cells };
  };
}

export function emptyReport(): ImportReport {
  return {
    rows: 0,
    added: 0,
    changed: 0,
    unchanged: 0,
    rejected: 0,
    causes: [],
    cells: 0,
    samples: { added: [], changed: [], unchanged: [], rejected: [], cells: [] },
  };
}
