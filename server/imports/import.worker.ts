import { parentPort, workerData } from 'node:worker_threads';
import type { FileSurvey, ImportReport } from '../../contract/imports.ts';
import type { Cause } from '../people/bulk-rows.ts';
import { type Access, connectTo } from '../store/hosts.ts';
import type { Hold } from '../work/hold.ts';
import { type ChangeTask, runChange, tryChange } from './change-people.ts';
import { surveyFile } from './import-file.ts';
import { checkImport, type ImportTask, runImport } from './import-people.ts';
import { type Unused, undoImport } from './undo-import.ts';

/** One piece of work for a thread of its own. */
export type ImportJob =
  | { readonly name: 'survey'; readonly path: string; readonly bytes: number }
  | { readonly name: 'check'; readonly task: ImportTask; readonly rejectedPath: string }
  | { readonly name: 'import'; readonly task: ImportTask; readonly hold: Hold }
  | { readonly name: 'try-change'; readonly task: ChangeTask }
  | { readonly name: 'change'; readonly task: ChangeTask; readonly hold: Hold }
  | {
      readonly name: 'undo';
      readonly cause: Cause;
      readonly report: ImportReport;
      readonly unused: Unused;
      readonly hold: Hold;
    };

export interface ImportResults {
  survey: FileSurvey;
  check: ImportReport;
  import: ImportReport;
  'try-change': ImportReport;
  change: ImportReport;
  undo: ImportReport;
}

export type ImportMessage =
  | { readonly progress: number }
  | { readonly result: ImportResults[keyof ImportResults] }
  | { readonly failure: string };

const connection: Access = workerData;
const tellEvery = 100;
let reportedAt = 0;

function progress(done: number): void {
  const now = performance.now();
  if (now - reportedAt < tellEvery) return;
  reportedAt = now;
  tell({ progress: Math.min(1, done) });
}

function tell(message: ImportMessage): void {
  parentPort?.postMessage(message);
}

async function work(job: ImportJob): Promise<ImportResults[keyof ImportResults]> {
  if (job.name === 'survey') return surveyFile(job.path, job.bytes, progress);
  const database = await connectTo(connection);
  try {
    if (job.name === 'check') return await checkImport(database, job.task, job.rejectedPath, progress);
    if (job.name === 'import') return await runImport(database, job.task, progress, job.hold);
    if (job.name === 'try-change') return await tryChange(database, job.task, progress);
    if (job.name === 'change') return await runChange(database, job.task, progress, job.hold);
    return await undoImport(database, job.cause, job.report, job.unused, progress, job.hold);
  } finally {
    database.destroy();
  }
}

parentPort?.on('message', async (job: ImportJob) => {
  try {
    tell({ result: await work(job) });
  } catch (error) {
    tell({ failure: error instanceof Error ? error.message : String(error) });
  }
});
