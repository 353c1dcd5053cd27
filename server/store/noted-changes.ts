import type { Connection } from 'mysql2/promise';
import { type Model, type ModelStatic, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { LoggedChange, LoggedKind } from '../../contract/changes.ts';

/** Above this number, the changes of a kind in one transaction share one log entry, without revisions. */
const mostSingly = 200;
/** Above this number, the log only says that anything of the kind may have changed. */
const mostNamed = 20_000;

/** A change as in the contract, without its position. */
export type NotedChange = Omit<LoggedChange, 'position'>;

/** The changes of one transaction: each entity once, with its latest revision. */
export class NotedChanges {
  private readonly byKind = new Map<LoggedKind, Map<string, number | null> | 'any'>();

  /** @param id null where anything of the kind may change */
  add(kind: LoggedKind, id: string | null, revision: number | null = null): void {
    const known = this.byKind.get(kind) ?? new Map<string, number | null>();
    if (known === 'any') return;
    if (id !== null) known.set(id, revision);
    this.byKind.set(kind, id === null || known.size > mostNamed ? 'any' : known);
  }

  all(): NotedChange[] {
    return [...this.byKind].flatMap(([kind, known]): NotedChange[] => {
      if (known === 'any') return [{ kind, ids: null, revision: null }];
      if (known.size > mostSingly) return [{ kind, ids: [...known.keys()], revision: null }];
      return [...known].map(([id, revision]) => ({ kind, ids: [id], revision }));
    });
  }
}

const noted = new WeakMap<Transaction, NotedChanges>();

/** Starts to collect the changes of a transaction. */
export function noteChangesOf(transaction: Transaction): NotedChanges {
  const changes = new NotedChanges();
  noted.set(transaction, changes);
  return changes;
}

/** Notes a change that a transaction makes without a model. */
export function noteChange(transaction: Transaction, kind: LoggedKind, id: string | null): void {
  const changes = noted.get(transaction);
  if (!changes) throw new Error('Nobody notes what this transaction changes.');
  changes.add(kind, id);
}

/**
 * Notes every change to a table's rows, whichever method of the model makes it. A change outside a transaction throws, as it
 * could not be committed together with its log entry.
 *
 * @param key the column that identifies a row in the log
 */
export function noteChangesTo<Row extends Model>(
  model: ModelStatic<Row>,
  kind: LoggedKind,
  key: string,
): void {
  const note = (transaction: Transaction | null | undefined, id: unknown, revision?: unknown) => {
    const changes = transaction && noted.get(transaction);
    if (!changes) throw new Error(`A change of ${model.tableName} has to be made within a transaction.`);
    const isOne = typeof id === 'string' || typeof id === 'number';
    changes.add(kind, isOne ? String(id) : null, typeof revision === 'number' ? revision : null);
  };
  const noteRow = (row: Model, { transaction }: { transaction?: Transaction | null }) =>
    note(transaction, row.get(key), row.get('revision'));
  const noteRows = ({ transaction, where }: { transaction?: Transaction | null; where?: object }) => {
    const asked: unknown = where && key in where ? Reflect.get(where, key) : undefined;
    for (const id of Array.isArray(asked) ? asked : [asked]) note(transaction, id);
  };
  model.addHook('beforeCreate', (row, options) => {
    if (row.get(key) != null) noteRow(row, options);
  });
  model.addHook('afterCreate', noteRow);
  model.addHook('beforeUpdate', noteRow);
  model.addHook('beforeDestroy', noteRow);
  model.addHook('beforeUpsert', (values, options) => {
    note(options.transaction, Reflect.get(values, key));
  });
  model.addHook('beforeBulkCreate', (rows, { transaction }) => {
    for (const row of rows) note(transaction, row.get(key));
  });
  model.addHook('beforeBulkUpdate', noteRows);
  model.addHook('beforeBulkDestroy', noteRows);
}

/**
 * Appends the noted changes of a Sequelize transaction to the log. Call it last, right before the commit. Returns whether
 * there were any.
 */
export async function appendNoted(
  sequelize: Sequelize,
  transaction: Transaction,
  changes: NotedChanges,
): Promise<boolean> {
  const rows = changes.all();
  if (rows.length === 0) return false;
  await sequelize.query(appending(rows.length), {
    replacements: valuesOf(rows),
    type: QueryTypes.INSERT,
    transaction,
  });
  return true;
}

/** Appends the noted changes of a transaction on its own connection to the log. */
export async function appendChanges(connection: Connection, changes: NotedChanges): Promise<void> {
  const rows = changes.all();
  if (rows.length > 0) await connection.query(appending(rows.length), valuesOf(rows));
}

function appending(rows: number): string {
  const row = '(?, ?, ?, ?, UTC_TIMESTAMP(3))';
  return `INSERT INTO changes (kind, entity, entities, revision, at) VALUES ${Array(rows).fill(row).join(', ')}`;
}

function valuesOf(changes: readonly NotedChange[]): (string | number | null)[] {
  return changes.flatMap(({ kind, ids, revision }) => {
    const [first = null] = ids ?? [];
    return ids && ids.length > 1 ? [kind, null, JSON.stringify(ids), null] : [kind, first, null, revision];
  });
}
