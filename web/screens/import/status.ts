import type { Import, ImportStatus } from '../../../contract/imports.ts';

const running = new Set<ImportStatus>(['reading', 'checking', 'importing', 'undoing']);

/** Whether something goes on that has to be asked for again. */
export function isRunning(data: Pick<Import, 'status'> | undefined): boolean {
  return data !== undefined && running.has(data.status);
}

export const statusWords: Record<ImportStatus, string> = {
  reading: 'being read',
  read: 'not imported yet',
  checking: 'being tried',
  checked: 'not imported yet',
  importing: 'being imported',
  imported: 'imported',
  cancelled: 'stopped',
  failed: 'could not be read',
  undoing: 'being taken back',
  undone: 'taken back',
};
