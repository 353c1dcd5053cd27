import type { QueryInterface } from 'sequelize';
import { up as first } from './0001-first.ts';

/** Forward only: a migration that was released is never edited, a new one follows it. */
export const migrations: { name: string; up: (step: { context: QueryInterface }) => Promise<void> }[] = [
  { name: '0001-first', up: ({ context }) => first(context) },
];
