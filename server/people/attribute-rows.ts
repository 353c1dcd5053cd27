import type { Connection, RowDataPacket } from 'mysql2/promise';
import { type Attribute, attributeSchema } from '../../core/attributes/attribute.ts';
import type { StatedFact } from '../../core/audiences/fact.ts';
import { type Condition, conditionSchema } from '../../core/conditions/condition.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import { takeTurnSql } from '../store/transaction.ts';

// What changes attributes together with many contacts, on a connection of its own.

type DefinitionRecord = RowDataPacket & { definition: string | Attribute };

function definitionFrom({ definition }: DefinitionRecord): Attribute {
  return typeof definition === 'string' ? JSON.parse(definition) : definition;
}

/** The attributes of contacts as they are stored. */
export async function storedAttributes(connection: Connection): Promise<Attribute[]> {
  const [rows] = await connection.query<DefinitionRecord[]>('SELECT definition FROM attributes');
  return rows.map(definitionFrom);
}

/** An attribute, which stays as it is until the transaction ends; undefined where there is none. */
export async function lockedAttribute(connection: Connection, id: string): Promise<Attribute | undefined> {
  const [[row]] = await connection.query<DefinitionRecord[]>(
    'SELECT definition FROM attributes WHERE id = ? FOR UPDATE',
    [id],
  );
  return row && attributeSchema.parse(definitionFrom(row));
}

/** Adds attributes as the last ones. */
export async function insertAttributes(
  connection: Connection,
  attributes: readonly Attribute[],
  changes: NotedChanges,
): Promise<void> {
  const [[last]] = await connection.query<RowDataPacket[]>(
    'SELECT COALESCE(MAX(position), 0) AS position FROM attributes',
  );
  for (const [index, attribute] of attributes.entries()) {
    changes.add('attribute', attribute.id);
    await connection.query('INSERT INTO attributes (id, position, definition) VALUES ?', [
      [[attribute.id, Number(last?.position ?? 0) + 1 + index, JSON.stringify(attribute)]],
    ]);
  }
}

export async function updateAttribute(
  connection: Connection,
  attribute: Attribute,
  changes: NotedChanges,
): Promise<void> {
  changes.add('attribute', attribute.id);
  await connection.query('UPDATE attributes SET definition = ? WHERE id = ?', [
    JSON.stringify(attribute),
    attribute.id,
  ]);
}

/** Makes an attribute again what it was, unless somebody changed it since. */
export async function restoreAttribute(
  connection: Connection,
  before: Attribute,
  after: Attribute,
  changes: NotedChanges,
): Promise<void> {
  changes.add('attribute', before.id);
  await connection.query('UPDATE attributes SET definition = ? WHERE id = ? AND definition = ?', [
    JSON.stringify(before),
    before.id,
    JSON.stringify(after),
  ]);
}

export async function deleteAttribute(
  connection: Connection,
  id: string,
  changes: NotedChanges,
): Promise<void> {
  changes.add('attribute', id);
  await connection.query('DELETE FROM attributes WHERE id = ?', [id]);
}

/** An audience with its condition. */
export interface NamedCondition {
  readonly id: string;
  readonly name: string;
  readonly description: string;
  readonly condition: Condition;
}

/** Every audience as it is stored now, kept so until the transaction ends. */
export async function lockedConditions(connection: Connection): Promise<NamedCondition[]> {
  // Before any audience, as whoever saves one does.
  await connection.query(takeTurnSql);
  const [rows] = await connection.query<
    (RowDataPacket & { id: string; name: string; description: string; condition: string })[]
  >('SELECT id, name, description, `condition` FROM audiences ORDER BY id FOR UPDATE');
  return rows.map(({ id, name, description, condition }) => ({
    id,
    name,
    description,
    condition: conditionSchema.parse(JSON.parse(condition)),
  }));
}

/** Stores the condition of an audience as its next revision, and keeps it as a version. */
export async function updateCondition(
  connection: Connection,
  { id, name, description, condition }: NamedCondition,
  accountName: string,
  changes: NotedChanges,
): Promise<void> {
  changes.add('audience', id);
  const text = JSON.stringify(condition);
  await connection.query(
    `UPDATE audiences SET \`condition\` = ?, accountName = ?, revision = revision + 1, updatedAt = NOW(3)
     WHERE id = ?`,
    [text, accountName, id],
  );
  await connection.query(
    `INSERT INTO audience_versions (audienceId, at, accountName, name, description, \`condition\`)
     VALUES (?, NOW(3), ?, ?, ?, ?)`,
    [id, accountName, name, description, text],
  );
}

/** Stores the conditions of a fact as its next revision. */
export async function updateFactConditions(
  connection: Connection,
  { id, who, also }: StatedFact,
  changes: NotedChanges,
): Promise<void> {
  changes.add('fact', id);
  await connection.query('UPDATE facts SET who = ?, also = ?, revision = revision + 1 WHERE id = ?', [
    JSON.stringify(who),
    JSON.stringify(also),
    id,
  ]);
}
