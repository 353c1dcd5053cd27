import { createReadStream, createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { z } from 'zod';
import { type ImportReport, type ImportStatus, importStatuses } from '../../contract/imports.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { type BulkChange, problemOfChange } from '../../core/exchange/bulk-change.ts';
import { guessPlan } from '../../core/exchange/guess.ts';
import { namesChoice, usesOfAttribute } from '../people/attribute-uses.ts';
import { Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { accessOf } from '../store/connection.ts';
import type { Sequelize } from '../store/database.ts';
import { readPieces, storePieces } from '../store/pieces.ts';
import { inTransaction } from '../store/transaction.ts';
import { Interrupted } from '../work/hold.ts';
import { Hopeless, type RunningJob } from '../work/queue.ts';
import type { ChangeTask } from './change-people.ts';
import type { ImportJob, ImportResults } from './import.worker.ts';
import type { ImportTask } from './import-people.ts';
import { ImportThreads } from './import-threads.ts';
import { type ImportRow, importRow, updateImport } from './rows.ts';
import type { Unused } from './undo-import.ts';

/** How often it is stored how far an import has come, in milliseconds. */
const tellEvery = 300;

/** What is to be done for an import. */
export const importWorkSchema = z.object({
  importId: z.number(),
  task: z.enum(['survey', 'check', 'import', 'try-change', 'change', 'undo']),
  /** Where the import stood before, and stands again where this does not succeed. */
  before: z.enum(importStatuses),
});
export type ImportWork = z.infer<typeof importWorkSchema>;

/** The file of an import, and the list of rows that it left out, by the names that they are stored under. */
export const fileOf = (id: number) => `import-${id}`;
export const rejectedOf = (id: number) => `import-${id}-left-out`;

/** What takes long of an import: done as jobs, each in a thread, in one transaction together with the note that it is done. */
export class ImportWorker {
  private readonly threads: ImportThreads;

  constructor(
    private readonly sequelize: Sequelize,
    private readonly log: ChangeLog,
    private readonly drafts: Drafts,
  ) {
    this.threads = new ImportThreads(accessOf(sequelize));
  }

  /** Begins a thread before it is needed. */
  prepare(): void {
    this.threads.prepare();
  }

  stop(): Promise<void> {
    return this.threads.close();
  }

  async run(job: RunningJob<ImportWork>): Promise<null> {
    const { importId, task, before } = job.payload;
    const row = await importRow(importId);
    // Forgotten meanwhile.
    if (!row) return null;
    const folder = await mkdtemp(join(tmpdir(), 'apple-porch-import-'));
    try {
      const path = join(folder, 'file');
      if (task !== 'undo')
        await pipeline(Readable.from(readPieces(this.sequelize, fileOf(importId))), createWriteStream(path));
      await this.do(job, row, path);
    } catch (error) {
      await this.giveUp(job, row, task === 'survey' ? 'failed' : before, error);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
    return null;
  }

  /** Refuses a change of many contacts that can't be done any more. */
  async refuseImpossible(change: BulkChange): Promise<Attribute> {
    const { catalogue } = await this.drafts.decider();
    const attribute = catalogue.get(change.attribute);
    const problem = attribute ? problemOfChange(attribute, change) : 'is gone';
    if (attribute && problem === undefined) return attribute;
    throw new Refusal(422, `“${attribute?.label ?? 'The attribute'}” ${problem}.`, {
      fields: [{ path: 'change', message: problem ?? '' }],
    });
  }

  private async changeTaskFor(
    { id, change }: ImportRow,
    path: string,
    accountName: string,
  ): Promise<ChangeTask> {
    if (!change) throw new Refusal(409, 'This is an import of a file.');
    const attribute = await this.refuseImpossible(change);
    return { path, attribute, change, cause: { source: 'together', accountName, importId: id } };
  }

  private async do(job: RunningJob<ImportWork>, row: ImportRow, path: string): Promise<void> {
    const { hold, accountName } = job;
    const store = (values: Partial<ImportRow>) =>
      job.commit((transaction) => updateImport(row, values, transaction), { progress: 1, state: null });
    switch (job.payload.task) {
      case 'survey': {
        const survey = await this.inThread(job, { name: 'survey', path, bytes: Number(row.bytes) });
        const { catalogue } = await this.drafts.decider();
        await store({
          survey,
          plan: guessPlan(survey.columns, catalogue.attributes),
          status: 'read',
          failure: null,
        });
        return;
      }
      case 'check': {
        const rejectedPath = `${path}-left-out`;
        const task = await this.taskFor(row, path, '');
        const report = await this.inThread(job, { name: 'check', task, rejectedPath });
        await job.commit(
          async (transaction) => {
            const rejected = createReadStream(rejectedPath, { highWaterMark: 1024 * 1024 });
            await storePieces(this.sequelize, rejectedOf(row.id), rejected, transaction);
            await updateImport(row, { report, status: 'checked' }, transaction);
          },
          { progress: 1, state: null },
        );
        return;
      }
      case 'try-change': {
        const task = await this.changeTaskFor(row, path, '');
        await store({ report: await this.inThread(job, { name: 'try-change', task }), status: 'checked' });
        return;
      }
      case 'import':
        await this.inThread(job, { name: 'import', task: await this.taskFor(row, path, accountName), hold });
        break;
      case 'change':
        await this.inThread(job, {
          name: 'change',
          task: await this.changeTaskFor(row, path, accountName),
          hold,
        });
        break;
      case 'undo': {
        if (!row.report) throw new Refusal(409, 'This import has no report.');
        const cause = { source: 'undo' as const, accountName, importId: row.id };
        const unused = await this.unusedOf(row.report);
        await this.inThread(job, { name: 'undo', cause, report: row.report, unused, hold });
      }
    }
    // What the thread stored counts as done once questions about people know of it.
    await this.log.follow();
  }

  private async inThread<Name extends keyof ImportResults>(
    job: RunningJob<ImportWork>,
    work: Extract<ImportJob, { readonly name: Name }>,
  ): Promise<ImportResults[Name]> {
    let toldAt = Date.now();
    let telling = Promise.resolve();
    const { result, stop } = this.threads.run(work, (progress) => {
      if (Date.now() - toldAt < tellEvery) return;
      toldAt = Date.now();
      // Where it can't be told, the job ends by itself.
      telling = telling.then(() => job.commit(async () => {}, { progress, state: null })).catch(() => {});
    });
    const onAbort = () => void stop();
    job.signal.addEventListener('abort', onAbort);
    if (job.signal.aborted) onAbort();
    try {
      return await result;
    } finally {
      job.signal.removeEventListener('abort', onAbort);
      await telling;
    }
  }

  /** Says with an import why its job did not succeed, unless it will be tried again. */
  private async giveUp(
    job: RunningJob<ImportWork>,
    row: ImportRow,
    status: ImportStatus,
    error: unknown,
  ): Promise<never> {
    const reason: unknown = job.signal.reason;
    const isStopped = reason instanceof Interrupted && reason.why === 'stopping';
    if (job.signal.aborted && !isStopped) throw error;
    if (!isStopped && isLost(error)) throw error;
    const failure = isStopped ? 'Stopped. Nothing of it was stored.' : wordsFor(error).slice(0, 1000);
    const now = isStopped && status === 'failed' ? 'cancelled' : status;
    await inTransaction((transaction) => updateImport(row, { status: now, failure }, transaction));
    throw new Hopeless(failure);
  }

  private async taskFor(row: ImportRow, path: string, accountName: string): Promise<ImportTask> {
    const { catalogue } = await this.drafts.decider();
    if (!row.survey || !row.plan) throw new Refusal(409, 'The file has not been read yet.');
    return {
      path,
      bytes: Number(row.bytes),
      survey: row.survey,
      plan: row.plan,
      attributes: catalogue.attributes.filter(({ source }) => source === 'contact'),
      cause: { source: 'import', accountName, importId: row.id },
    };
  }

  /** What came with an import, without what audiences, pages and emails have come to use. */
  private async unusedOf({ attributes }: ImportReport): Promise<Unused> {
    const snapshot = await this.drafts.snapshot();
    const { added = [], extended = [] } = attributes ?? {};
    return {
      added: added.filter(({ id }) => usesOfAttribute(id, snapshot).length === 0),
      extended: extended.filter(({ before, after }) => {
        const known = new Set(choicesOf(before).map(({ id }) => id));
        const made = choicesOf(after).filter(({ id }) => !known.has(id));
        return !snapshot.audiences.some(({ condition }) =>
          made.some(({ id }) => namesChoice(condition, before.id, id)),
        );
      }),
    };
  }
}

/** Whether the database was lost, which says nothing about the work itself. */
function isLost(error: unknown): boolean {
  const message = error instanceof Error ? error.message : String(error);
  return /Connection lost|closed state|ECONNREFUSED|ECONNRESET|EPIPE|Server shutdown|pool is draining/i.test(
    message,
  );
}

/** What went wrong, for who only wanted to import. */
function wordsFor(error: unknown): string {
  const failure = error instanceof Error ? error.message : String(error);
  const [, entry] = /Duplicate entry '(.*)' for key/.exec(failure) ?? [];
  if (entry !== undefined)
    return `“${entry}” is stored for somebody else meanwhile. Nothing was imported; try again.`;
  if (/No space left|is full|ENOSPC/i.test(failure)) return 'The disk is full. Nothing was stored.';
  return failure;
}
