import { Readable, Transform } from 'node:stream';
import { type Import, type ImportReport, type ImportStatus, largestImport } from '../../contract/imports.ts';
import type { Catalogue } from '../../core/attributes/catalogue.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { BulkChange } from '../../core/exchange/bulk-change.ts';
import type { ImportPlan } from '../../core/exchange/plan.ts';
import { type PlanProblem, Reading } from '../../core/exchange/reading.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Sequelize } from '../store/database.ts';
import { readPieces, removePieces, storePieces } from '../store/pieces.ts';
import type { Transaction } from '../store/transaction.ts';
import { inTransaction } from '../store/transaction.ts';
import type { ActiveJob, JobQueue } from '../work/queue.ts';
import { fileOf, type ImportWork, type ImportWorker, importWorkSchema, rejectedOf } from './import-work.ts';
import {
  deleteImport,
  type ImportRow,
  importRow,
  importsOf,
  insertImport,
  latestImports,
  updateImport,
} from './rows.ts';

const listed = 50;
/** A file that was not sent in this time, in milliseconds, does not come any more. */
const longestUpload = 3_600_000;

/** What each piece of work makes of an import while it goes on, and what it is called. */
const works: { [Task in ImportWork['task']]: { status: ImportStatus; title: (name: string) => string } } = {
  survey: { status: 'reading', title: (name) => `Read ${name}` },
  check: { status: 'checking', title: (name) => `Check the import of ${name}` },
  import: { status: 'importing', title: (name) => `Import ${name}` },
  'try-change': { status: 'checking', title: (name) => `Check a change of people: ${name}` },
  change: { status: 'importing', title: (name) => `Change people: ${name}` },
  undo: { status: 'undoing', title: (name) => `Undo ${name}` },
};

/** Where an import stands once nothing is done for it any more that was to be done. */
const ended: { [status in ImportStatus]?: { status: ImportStatus; failure: string } } = {
  reading: { status: 'failed', failure: 'The file could not be read. Choose it again.' },
  checking: { status: 'read', failure: 'The preview did not finish. Nothing was imported.' },
  importing: { status: 'checked', failure: 'Stopped. Nothing of it was stored.' },
  undoing: { status: 'imported', failure: 'Stopped. Nothing of that was stored.' },
};

/** What an import is still in, whose work is done but not known everywhere. */
const still: { [status in ImportStatus]?: ImportStatus } = {
  read: 'reading',
  failed: 'reading',
  cancelled: 'reading',
  checked: 'checking',
  imported: 'importing',
  undone: 'undoing',
};

/** Bringing people in from files. Each file is an import with a row of its own; what takes long is a job. */
export class Imports {
  private readonly worker: ImportWorker;

  constructor(
    private readonly sequelize: Sequelize,
    private readonly queue: JobQueue,
    private readonly drafts: Drafts,
    worker: ImportWorker,
  ) {
    this.worker = worker;
    queue.handle({ kind: 'import', payload: importWorkSchema, tries: 5, run: (job) => worker.run(job) });
  }

  async list() {
    this.worker.prepare();
    const rows = await latestImports(listed);
    const active = await this.queue.allActive(rows.map(({ id }) => fileOf(id)));
    return Promise.all(rows.map(async (row) => shown(await this.settled(row, active), active)));
  }

  async get(id: number): Promise<Import> {
    const active = await this.queue.allActive([fileOf(id)]);
    const row = await this.settled(await this.row(id), active);
    return {
      ...shown(row, active),
      survey: row.survey ?? null,
      plan: row.plan ?? null,
      problems: problemsOf(row, (await this.drafts.decider()).catalogue),
    };
  }

  /** Takes a file as it is sent, and has it read. */
  async upload(name: string, body: Readable, accountName: string): Promise<Import> {
    const row = await inTransaction((transaction) =>
      insertImport({ name, bytes: 0, status: 'reading', accountName }, transaction),
    );
    let bytes = 0;
    try {
      const limited = new Transform({
        transform(piece: Buffer, _encoding, done) {
          bytes += piece.length;
          done(bytes > largestImport ? tooLarge() : null, piece);
        },
      });
      body
        .once('error', (error) => limited.destroy(error))
        .once('aborted', () => limited.destroy(new Error('aborted')));
      await storePieces(this.sequelize, fileOf(row.id), body.pipe(limited));
    } catch (error) {
      await this.discard(row);
      throw error;
    }
    await inTransaction(async (transaction) => {
      await updateImport(row, { bytes }, transaction);
      await this.begin(row, 'survey', accountName, transaction);
    });
    return this.get(row.id);
  }

  /** Tries a plan: says what it would do. With something left to settle it is kept, but not tried. */
  async plan(id: number, plan: ImportPlan, accountName: string): Promise<Import> {
    const { status } = await this.row(id);
    // A trial of an earlier plan is of no use any more.
    if (status === 'checking') await this.queue.stopActive(fileOf(id));
    const { catalogue } = await this.drafts.decider();
    await this.onIdle(id, ['read', 'checked', 'undone'], async (row, transaction) => {
      await updateImport(row, { plan, report: null, failure: null, status: 'read' }, transaction);
      if (problemsOf(row, catalogue).length === 0) await this.begin(row, 'check', accountName, transaction);
    });
    return this.get(id);
  }

  async run(id: number, accountName: string): Promise<Import> {
    const { change } = await this.row(id);
    if (change) await this.worker.refuseImpossible(change);
    await this.onIdle(id, ['checked'], (row, transaction) =>
      this.begin(row, row.change ? 'change' : 'import', accountName, transaction),
    );
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
    const row = await inTransaction(async (transaction) => {
      const made = await insertImport({ name, bytes: 0, status: 'read', accountName, change }, transaction);
      await storePieces(this.sequelize, fileOf(made.id), [Buffer.from(ids.join('\n'))], transaction);
      await this.begin(made, 'try-change', accountName, transaction);
      return made;
    });
    return this.get(row.id);
  }

  /** Tries a change again that was stopped or taken back, of the same contacts. */
  async again(id: number, accountName: string): Promise<Import> {
    const { change } = await this.row(id);
    if (change) await this.worker.refuseImpossible(change);
    else throw new Refusal(409, 'This is an import of a file; it is tried with its plan.');
    await this.onIdle(id, ['read', 'checked', 'undone'], async (row, transaction) => {
      await updateImport(row, { report: null, failure: null, status: 'read' }, transaction);
      await this.begin(row, 'try-change', accountName, transaction);
    });
    return this.get(id);
  }

  /** Stops what runs. What it had written is not stored. */
  async cancel(id: number): Promise<Import> {
    if (!(await this.queue.active(fileOf(id))))
      throw new Refusal(409, 'Nothing is running that could be stopped.');
    await this.queue.stopActive(fileOf(id));
    return this.get(id);
  }

  async undo(id: number, accountName: string): Promise<Import> {
    await this.onIdle(id, ['imported'], async (row, transaction) => {
      if (!row.report) throw new Refusal(409, 'This import has no report.');
      await this.begin(row, 'undo', accountName, transaction);
    });
    return this.get(id);
  }

  /** Forgets an import, with its file. What it brought in stays, and can't be taken back any more. */
  async remove(id: number): Promise<void> {
    const statuses: ImportStatus[] = ['read', 'checked', 'cancelled', 'failed', 'undone', 'imported'];
    await this.onIdle(id, statuses, async (row, transaction) => {
      await removePieces(this.sequelize, [fileOf(id), rejectedOf(id)], transaction);
      await deleteImport(row, transaction);
    });
  }

  /** The rows that were left out with the reason beside each, as CSV. */
  async rejectedFile(id: number): Promise<{ file: Readable; name: string }> {
    const row = await this.row(id);
    const pieces = readPieces(this.sequelize, rejectedOf(id));
    const first = await pieces.next();
    if (first.done) throw notFound('list of rows');
    const whole = async function* () {
      yield first.value;
      yield* pieces;
    };
    const name = `${row.name.replace(/\.\w+$/, '').replace(/[^\w.-]+/g, '-')}-left-out.csv`;
    return { file: Readable.from(whole()), name };
  }

  /** Takes a person out of what is kept of some imports: their files go, and their reports show nobody by that address. */
  async forget(ids: readonly number[], email: string): Promise<number> {
    let files = 0;
    for (const row of await importsOf(ids)) {
      files += await removePieces(this.sequelize, [fileOf(row.id), rejectedOf(row.id)]);
      const { report, survey } = row;
      if (!report) continue;
      const others = (one: { email: string }) => addressKey(one.email) !== addressKey(email);
      const { added, changed, unchanged, rejected, cells = [] } = report.samples;
      const samples = {
        added: added.filter(others),
        changed: changed.filter(others),
        unchanged: unchanged.filter(others),
        rejected: rejected.filter(others),
        cells: cells.filter(others),
      };
      const columns = survey?.columns.map((column) => ({ ...column, examples: [], distinct: null }));
      await inTransaction((transaction) =>
        updateImport(
          row,
          { report: { ...report, samples }, survey: survey && columns ? { ...survey, columns } : null },
          transaction,
        ),
      );
    }
    return files;
  }

  /** Has a piece of work done for an import, together with what led to it. */
  private async begin(
    row: ImportRow,
    task: ImportWork['task'],
    accountName: string,
    transaction: Transaction,
  ): Promise<void> {
    const { status, title } = works[task];
    const payload: ImportWork = { importId: row.id, task, before: row.status };
    await updateImport(row, { status }, transaction);
    const job = { kind: 'import', title: title(row.name), payload, key: fileOf(row.id), accountName };
    await this.queue.add(job, transaction);
  }

  /** Does something to an import that nothing is done for, and that is where it can be. */
  private async onIdle(
    id: number,
    statuses: readonly ImportStatus[],
    work: (row: ImportRow, transaction: Transaction) => Promise<void>,
  ): Promise<void> {
    // What was done for it last is stored; all that is missing is the note that its job is over.
    if (!ended[(await this.row(id)).status]) await this.queue.untilEnded(fileOf(id));
    const active = await this.queue.allActive([fileOf(id)]);
    if (active.size > 0) throw inUse();
    await this.settled(await this.row(id), active);
    await inTransaction(async (transaction) => {
      const row = await importRow(id, transaction);
      if (!row) throw notFound('import');
      if (ended[row.status]) throw inUse();
      if (!statuses.includes(row.status))
        throw new Refusal(409, `This can’t be done with an import that is ${row.status}.`);
      await work(row, transaction);
    });
  }

  private async row(id: number): Promise<ImportRow> {
    const row = await importRow(id);
    if (!row) throw notFound('import');
    return row;
  }

  /** An import as it stands now that nothing is done for it any more, where that is so. */
  private async settled(row: ImportRow, active: ReadonlyMap<string, ActiveJob>): Promise<ImportRow> {
    const now = ended[row.status];
    if (!now || active.has(fileOf(row.id))) return row;
    const isOnItsWay = row.status === 'reading' && Date.now() - row.createdAt.getTime() < longestUpload;
    if (isOnItsWay && !row.bytes) return row;
    return inTransaction(async (transaction) => {
      const latest = await importRow(row.id, transaction);
      // Somebody may have begun or ended something for it meanwhile.
      if (latest?.status !== row.status || (await this.queue.active(fileOf(row.id), transaction)))
        return latest ?? row;
      await updateImport(latest, now, transaction);
      return latest;
    });
  }

  private async discard(row: ImportRow): Promise<void> {
    await inTransaction(async (transaction) => {
      await removePieces(this.sequelize, [fileOf(row.id)], transaction);
      await deleteImport(row, transaction);
    });
  }
}

function problemsOf({ survey, plan, status }: ImportRow, { attributes }: Catalogue): PlanProblem[] {
  if (!survey || !plan || status === 'imported') return [];
  return new Reading(plan, survey.columns, attributes).problems;
}

function shown(row: ImportRow, active: ReadonlyMap<string, ActiveJob>) {
  const { id, name, status, accountName, failure = null, createdAt, finishedAt = null } = row;
  const job = active.get(fileOf(id));
  return {
    id,
    name,
    bytes: Number(row.bytes),
    // What is stored already counts as done only when questions about people know it too.
    status: job ? (still[status] ?? status) : status,
    accountName,
    failure,
    change: row.change ?? null,
    report: (row.report ?? null) as ImportReport | null,
    progress: job ? (job.progress ?? 0) : null,
    createdAt: createdAt.toISOString(),
    finishedAt: finishedAt?.toISOString() ?? null,
  };
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
