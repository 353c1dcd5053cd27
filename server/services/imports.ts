import { createWriteStream, existsSync, mkdirSync, rmSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Sequelize } from 'sequelize';
import { type Import, type ImportReport, type ImportStatus, largestImport } from '../../contract/imports.ts';
import { choicesOf } from '../../core/attributes/attribute.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import { type BulkChange, problemOfChange } from '../../core/exchange/bulk-change.ts';
import { guessPlan } from '../../core/exchange/guess.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { type PlanProblem, Reading } from '../../core/exchange/reading.ts';
import type { ChangeTask } from '../jobs/change-people.ts';
import type { ImportJob, ImportResults } from '../jobs/import.worker.ts';
import type { Imported, ImportTask } from '../jobs/import-people.ts';
import { ImportThreads, StoppedJob } from '../jobs/import-threads.ts';
import type { Unused } from '../jobs/undo-import.ts';
import { notFound, Refusal } from '../refusal.ts';
import { accessOf } from '../store/connection.ts';
import { ImportRow } from '../store/models.ts';
import { namesChoice, usesOfAttribute } from './attribute-uses.ts';
import type { Drafts } from './drafts.ts';
import type { People } from './people.ts';

const listed = 50;
/** What an import was in the middle of when the server stopped: nothing of it was stored. */
const interrupted: { [status in ImportStatus]?: { status: ImportStatus; failure: string } } = {
  reading: { status: 'failed', failure: 'The server stopped while the file was read. Choose it again.' },
  checking: { status: 'read', failure: 'The server stopped during the trial. Nothing was imported.' },
  importing: {
    status: 'checked',
    failure: 'The server stopped in the middle of the import. Nothing of it was stored.',
  },
  undoing: {
    status: 'imported',
    failure: 'The server stopped in the middle of taking this back. Nothing of that was stored.',
  },
};

interface Running {
  readonly status: ImportStatus;
  progress: number;
  stop(): Promise<void>;
  ended: Promise<void>;
}

/**
 * Bringing people in from files. Each file is an import with a row of its own; what takes long runs in a thread of its
 * own, one piece of work for one import at a time.
 */
export class Imports {
  private readonly running = new Map<number, Running>();
  /** Those that something is begun for, from the moment it is asked for. */
  private readonly busy = new Set<number>();
  /** Those whose file is still on its way. */
  private readonly uploading = new Set<number>();
  private readonly threads: ImportThreads;

  constructor(
    sequelize: Sequelize,
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly folder: string,
  ) {
    this.threads = new ImportThreads(accessOf(sequelize));
    mkdirSync(folder, { recursive: true, mode: 0o700 });
  }

  /** To be called before the first request: settles what the last run of the server left in the middle. */
  async settle(): Promise<void> {
    for (const [status, now] of Object.entries(interrupted))
      await ImportRow.update(now, { where: { status } });
  }

  async list() {
    this.threads.prepare();
    const rows = await ImportRow.findAll({ order: [['id', 'DESC']], limit: listed });
    for (const row of rows) await this.settled(row);
    return rows.map((row) => this.shown(row));
  }

  async get(id: number): Promise<Import> {
    const row = await this.row(id);
    return {
      ...this.shown(row),
      survey: row.survey ?? null,
      plan: row.plan ?? null,
      problems: await this.problemsOf(row),
    };
  }

  /** Takes a file as it is sent, and begins to read it. */
  async upload(name: string, body: Readable, accountName: string): Promise<Import> {
    const row = await ImportRow.create({ name, bytes: 0, status: 'reading', accountName });
    const path = this.pathOf(row.id);
    let bytes = 0;
    this.uploading.add(row.id);
    try {
      const limited = new Transform({
        transform(piece: Buffer, _encoding, done) {
          bytes += piece.length;
          done(bytes > largestImport ? tooLarge() : null, piece);
        },
      });
      await pipeline(body, limited, createWriteStream(path, { mode: 0o600 }));
    } catch (error) {
      rmSync(path, { force: true });
      await row.destroy();
      throw error;
    } finally {
      this.uploading.delete(row.id);
    }
    await this.start(row, 'reading', { name: 'survey', path, bytes }, async (survey) => {
      const { catalogue } = await this.drafts.decider();
      await row.update({
        survey,
        plan: guessPlan(survey.columns, catalogue.attributes),
        status: 'read',
        failure: null,
      });
    });
    return this.get(row.id);
  }

  /** Tries a plan: says what it would do. With something left to settle it is kept, but not tried. */
  async plan(id: number, plan: ImportPlan): Promise<Import> {
    // A trial of an earlier plan is of no use any more.
    if (this.running.get(id)?.status === 'checking') await this.cancel(id);
    const row = await this.idle(id, 'read', 'checked', 'undone');
    await row.update({ plan, report: null, failure: null, status: 'read' });
    if ((await this.problemsOf(row)).length > 0) return this.get(id);
    const task = await this.taskFor(row, '');
    const rejectedPath = this.rejectedPathOf(id);
    await this.start(row, 'checking', { name: 'check', task, rejectedPath }, (report) =>
      row.update({ report, status: 'checked' }),
    );
    return this.get(id);
  }

  async run(id: number, accountName: string): Promise<Import> {
    const row = await this.idle(id, 'checked');
    const done = async ({ ids }: Imported) => {
      this.drafts.changed();
      await this.people.changed(ids ?? undefined);
    };
    if (row.change) {
      const task = await this.changeTaskFor(row, accountName);
      await this.start(row, 'importing', { name: 'change', task }, done);
    } else {
      const task = await this.taskFor(row, accountName);
      await this.start(row, 'importing', { name: 'import', task }, done);
    }
    return this.get(id);
  }

  /**
   * Tries a change of many contacts, to be done, stopped and taken back like an import.
   *
   * @param name what it is called among the imports
   */
  async change(
    change: BulkChange,
    ids: readonly number[],
    name: string,
    accountName: string,
  ): Promise<Import> {
    const row = await ImportRow.create({ name, bytes: 0, status: 'read', accountName, change });
    await writeFile(this.pathOf(row.id), ids.join('\n'), { mode: 0o600 });
    await this.tryChange(row);
    return this.get(row.id);
  }

  /** Tries a change again that was stopped or taken back, of the same contacts. */
  async again(id: number): Promise<Import> {
    const row = await this.idle(id, 'read', 'checked', 'undone');
    if (!row.change) throw new Refusal(409, 'This is an import of a file; it is tried with its plan.');
    await row.update({ report: null, failure: null, status: 'read' });
    await this.tryChange(row);
    return this.get(id);
  }

  private async tryChange(row: ImportRow): Promise<void> {
    const task = await this.changeTaskFor(row, '');
    await this.start(row, 'checking', { name: 'try-change', task }, (report) =>
      row.update({ report, status: 'checked' }),
    );
  }

  /** Stops what runs. What it had written is not stored. */
  async cancel(id: number): Promise<Import> {
    const running = this.running.get(id);
    if (!running) throw new Refusal(409, 'Nothing is running that could be stopped.');
    await running.stop();
    await running.ended;
    return this.get(id);
  }

  async undo(id: number, accountName: string): Promise<Import> {
    const row = await this.idle(id, 'imported');
    if (!row.report) throw new Refusal(409, 'This import has no report.');
    const job = {
      name: 'undo' as const,
      cause: { source: 'undo' as const, accountName, importId: id },
      report: row.report,
      unused: await this.unusedOf(row.report),
    };
    await this.start(row, 'undoing', job, async () => {
      this.drafts.changed();
      await this.people.changed();
    });
    return this.get(id);
  }

  /** Forgets an import, with its file. What it brought in stays, and can't be taken back any more. */
  async remove(id: number): Promise<void> {
    const row = await this.idle(id, 'read', 'checked', 'cancelled', 'failed', 'undone', 'imported');
    for (const path of [this.pathOf(id), this.rejectedPathOf(id)]) rmSync(path, { force: true });
    await row.destroy();
  }

  /** The rows that were left out with the reason beside each, as CSV. */
  async rejectedFile(id: number): Promise<{ path: string; name: string }> {
    const row = await this.row(id);
    const path = this.rejectedPathOf(id);
    if (!existsSync(path)) throw notFound('list of rows');
    return { path, name: `${row.name.replace(/\.\w+$/, '').replace(/[^\w.-]+/g, '-')}-left-out.csv` };
  }

  /** Takes a person out of what is kept of some imports: their files go, and their reports show nobody by that address. */
  async forget(ids: readonly number[], email: string): Promise<number> {
    let files = 0;
    for (const row of await ImportRow.findAll({ where: { id: [...ids] } })) {
      for (const path of [this.pathOf(row.id), this.rejectedPathOf(row.id)]) {
        if (!existsSync(path)) continue;
        rmSync(path);
        files++;
      }
      const { report, survey } = row;
      if (!report) continue;
      const others = (shown: { email: string }) => addressKey(shown.email) !== addressKey(email);
      const { added, changed, unchanged, rejected, cells = [] } = report.samples;
      const samples = {
        added: added.filter(others),
        changed: changed.filter(others),
        unchanged: unchanged.filter(others),
        rejected: rejected.filter(others),
        cells: cells.filter(others),
      };
      const columns = survey?.columns.map((column) => ({ ...column, examples: [], distinct: null }));
      await row.update({
        report: { ...report, samples },
        survey: survey && columns ? { ...survey, columns } : null,
      });
    }
    return files;
  }

  async stop(): Promise<void> {
    for (const running of this.running.values()) {
      await running.stop();
      await running.ended;
    }
    await this.threads.close();
  }

  private async start<Name extends keyof ImportResults>(
    row: ImportRow,
    status: ImportStatus,
    job: Extract<ImportJob, { readonly name: Name }>,
    done: (result: ImportResults[Name]) => Promise<unknown>,
  ): Promise<void> {
    if (this.busy.has(row.id)) throw inUse();
    this.busy.add(row.id);
    const before = row.status;
    await row
      .update({ status, ...(status === 'reading' && 'bytes' in job && { bytes: job.bytes }) })
      .catch((error) => {
        this.busy.delete(row.id);
        throw error;
      });
    const running: Running = { status, progress: 0, stop: async () => {}, ended: Promise.resolve() };
    const { result, stop } = this.threads.run(job, (share) => {
      running.progress = share;
    });
    running.stop = stop;
    running.ended = result
      .then(done)
      .catch((error: unknown) => {
        const still = status === 'reading' ? (error instanceof StoppedJob ? 'cancelled' : 'failed') : before;
        return row.update({ status: still, failure: wordsFor(error).slice(0, 1000) });
      })
      // Where the database is gone, the row is settled as soon as somebody looks at it again.
      .catch(() => undefined)
      .then(() => undefined)
      .finally(() => {
        this.running.delete(row.id);
        this.busy.delete(row.id);
      });
    this.running.set(row.id, running);
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

  private async taskFor(row: ImportRow, accountName: string): Promise<ImportTask> {
    const { catalogue } = await this.drafts.decider();
    if (!row.survey || !row.plan) throw new Refusal(409, 'The file has not been read yet.');
    return {
      path: this.pathOf(row.id),
      bytes: Number(row.bytes),
      survey: row.survey,
      plan: row.plan,
      attributes: catalogue.attributes.filter(({ source }) => source === 'contact'),
      cause: { source: 'import', accountName, importId: row.id },
    };
  }

  private async changeTaskFor({ id, change }: ImportRow, accountName: string): Promise<ChangeTask> {
    const { catalogue } = await this.drafts.decider();
    const attribute = change && catalogue.get(change.attribute);
    const problem = attribute ? problemOfChange(attribute, change) : 'is gone';
    if (!change || !attribute || problem !== undefined)
      throw new Refusal(422, `“${attribute?.label ?? 'The attribute'}” ${problem}.`, {
        fields: [{ path: 'change', message: problem ?? '' }],
      });
    const cause = { source: 'together' as const, accountName, importId: id };
    return { path: this.pathOf(id), attribute, change, cause };
  }

  private async problemsOf({ survey, plan, status }: ImportRow): Promise<PlanProblem[]> {
    if (!survey || !plan || status === 'imported') return [];
    const { catalogue } = await this.drafts.decider();
    return new Reading(plan, survey.columns, catalogue.attributes).problems;
  }

  private async row(id: number): Promise<ImportRow> {
    const row = await ImportRow.findByPk(id);
    if (!row) throw notFound('import');
    return this.settled(row);
  }

  /** An import that was in the middle of something when the database went away, as it stands now. */
  private async settled(row: ImportRow): Promise<ImportRow> {
    const now = interrupted[row.status];
    if (!now || this.busy.has(row.id) || this.uploading.has(row.id)) return row;
    return row.update({ status: now.status, failure: now.failure.replace('The server', 'The database') });
  }

  /** An import that nothing runs for, and that is where something can be begun. */
  private async idle(id: number, ...statuses: ImportStatus[]): Promise<ImportRow> {
    const row = await this.row(id);
    if (this.running.has(id))
      throw new Refusal(409, 'This import is being worked on; wait or stop it first.');
    if (!statuses.includes(row.status))
      throw new Refusal(409, `This can’t be done with an import that is ${row.status}.`);
    return row;
  }

  private shown(row: ImportRow) {
    const { id, name, status, accountName, failure = null, createdAt, finishedAt = null } = row;
    const running = this.running.get(id);
    return {
      id,
      name,
      bytes: Number(row.bytes),
      // What is stored already counts as done only when questions about people know it too.
      status: running?.status ?? status,
      accountName,
      failure,
      change: row.change ?? null,
      report: (row.report ?? null) as ImportReport | null,
      progress: running?.progress ?? null,
      createdAt: createdAt.toISOString(),
      finishedAt: finishedAt?.toISOString() ?? null,
    };
  }

  private pathOf(id: number): string {
    return join(this.folder, `import-${id}`);
  }

  private rejectedPathOf(id: number): string {
    return join(this.folder, `import-${id}-left-out.csv`);
  }
}

function inUse(): Refusal {
  return new Refusal(409, 'This import is being worked on; wait or stop it first.');
}

function tooLarge(): Refusal {
  return new Refusal(
    413,
    `The file is larger than ${largestImport / 1024 / 1024} MB. Split it and import the parts.`,
  );
}

/** What went wrong, for who only wanted to import. */
function wordsFor(error: unknown): string {
  if (error instanceof StoppedJob) return 'Stopped. Nothing of it was stored.';
  const failure = error instanceof Error ? error.message : String(error);
  const [, entry] = /Duplicate entry '(.*)' for key/.exec(failure) ?? [];
  if (entry !== undefined)
    return `“${entry}” is stored for somebody else meanwhile. Nothing was imported; try again.`;
  if (/No space left|is full|ENOSPC/i.test(failure)) return 'The disk is full. Nothing was stored.';
  return failure;
}
