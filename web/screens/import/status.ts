import type { Import, ImportStatus } from '../../../contract/imports.ts';

const running = new Set<ImportStatus>(['reading', 'checking', 'importing', 'undoing']);

/** Whether something goes on that has to be asked for again. */
export function isRunning(data: Pick<Import, 'status'> | undefined): boolean {
  return data !== undefined && running.has(data.status);
}

const statusWords: Record<ImportStatus, string> = {
  reading: 'being read',
  read: 'not imported yet',
  checking: 'being previewed',
  checked: 'not imported yet',
  importing: 'being imported',
  imported: 'imported',
  cancelled: 'stopped',
  failed: 'could not be read',
  undoing: 'being undone',
  undone: 'undone',
};

const changeWords: Partial<Record<ImportStatus, string>> = {
  read: 'not done yet',
  checked: 'not done yet',
  importing: 'being done',
  imported: 'done',
};

/** Where an import, or a change of many contacts, stands. */
export function statusOf({ status, change }: Pick<Import, 'status' | 'change'>): string {
  return (change && changeWords[status]) ?? statusWords[status];
}
