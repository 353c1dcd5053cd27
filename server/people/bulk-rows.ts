import mysql, { type Connection, type ResultSetHeader, type RowDataPacket } from 'mysql2/promise';
import type { ChangeKind, ChangeSource } from '../../contract/people.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { Fields, Stored } from '../../core/exchange/merge.ts';
import { foldedTexts } from '../store/folded-texts.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import { displayName } from './display-name.ts';

/** Through what contacts change. */
export interface Cause {
  readonly source: ChangeSource;
  readonly accountName: string;
  readonly importId: number | null;
}

/** A contact as it is to be; without an id it is a new one. */
export interface Write {
  readonly id?: number;
  readonly person: Omit<Stored, 'id'>;
  readonly fields: Fields;
}

interface ContactRecord extends RowDataPacket {
  id: number;
  email: string;
  externalId: string | null;
  values: string | { [attribute: string]: unknown };
}

/** Contacts by some addresses and ids, locked until the end of the transaction where they are to be written. */
export async function storedContacts(
  connection: Connection,
  emails: readonly string[],
  externalIds: readonly string[],
  lock: boolean,
): Promise<{ byAddress: Map<string, Stored>; byId: Map<string, Stored> }> {
  const byAddress = new Map<string, Stored>();
  const byId = new Map<string, Stored>();
  for (const [column, keys] of [
    ['emailKey', emails.map(addressKey)],
    ['externalId', externalIds],
  ] as const) {
    if (keys.length === 0) continue;
    const [rows] = await connection.query<ContactRecord[]>(
      `SELECT id, email, externalId, \`values\` FROM contacts WHERE ${column} IN (?)${lock ? ' FOR UPDATE' : ''}`,
      [keys],
    );
    for (const row of rows) {
      const stored = contactFrom(row);
      byAddress.set(addressKey(stored.email), stored);
      if (stored.externalId !== null) byId.set(stored.externalId, stored);
    }
  }
  return { byAddress, byId };
}

/** Contacts by their ids, locked until the end of the transaction where they are to be written. */
export async function contactsById(
  connection: Connection,
  ids: readonly number[],
  lock: boolean,
): Promise<Stored[]> {
  const [rows] = await connection.query<ContactRecord[]>(
    `SELECT id, email, externalId, \`values\` FROM contacts WHERE id IN (?)${lock ? ' FOR UPDATE' : ''}`,
    [ids],
  );
  return rows.map(contactFrom);
}

/** The next contacts after one who have a value of an attribute, locked until the end of the transaction. */
export async function contactsWithValue(
  connection: Connection,
  attribute: string,
  { after, most }: { readonly after: number; readonly most: number },
): Promise<Stored[]> {
  const [rows] = await connection.query<ContactRecord[]>(
    `SELECT id, email, externalId, \`values\` FROM contacts
     WHERE id > ? AND JSON_EXISTS(\`values\`, ?) ORDER BY id LIMIT ? FOR UPDATE`,
    [after, `$."${attribute}"`, most],
  );
  return rows.map(contactFrom);
}

/** Every different value of an attribute as it is stored, with how many contacts have it, most frequent first. */
export async function storedValues(
  connection: Connection,
  attribute: string,
): Promise<{ value: unknown; count: number }[]> {
  const [rows] = await connection.query<(RowDataPacket & { value: string; count: number })[]>(
    `SELECT CAST(JSON_EXTRACT(\`values\`, ?) AS CHAR) AS value, COUNT(*) AS count FROM contacts
     WHERE JSON_EXISTS(\`values\`, ?) GROUP BY value ORDER BY count DESC`,
    [`$."${attribute}"`, `$."${attribute}"`],
  );
  return rows.map(({ value, count }) => ({ value: JSON.parse(value), count: Number(count) }));
}

/** What people changed of some contacts since a moment, the oldest first. */
export async function changesByHand(
  connection: Connection,
  ids: readonly number[],
  since: Date,
): Promise<{ contactId: number; at: Date; fields: Fields }[]> {
  if (ids.length === 0) return [];
  const [rows] = await connection.query<
    (RowDataPacket & { contactId: number; at: Date; fields: string | Fields })[]
  >(
    `SELECT contactId, at, fields FROM contact_changes
     WHERE contactId IN (?) AND source = 'person' AND at > ? ORDER BY id`,
    [ids, since],
  );
  return rows.map(({ contactId, at, fields }) => ({
    contactId,
    at: new Date(at),
    fields: fieldsFrom(fields),
  }));
}

/** The fields of an entry of the history as the database gives them. */
export function fieldsFrom(fields: string | Fields): Fields {
  return typeof fields === 'string' ? JSON.parse(fields) : fields;
}

export function contactFrom({ id, email, externalId, values }: Omit<ContactRecord, 'constructor'>): Stored {
  return { id, email, externalId, values: typeof values === 'string' ? JSON.parse(values) : values };
}

/** Adds contacts and says in their history through what they came. */
export async function addContacts(
  connection: Connection,
  writes: readonly Write[],
  cause: Cause,
  changes: NotedChanges,
): Promise<void> {
  if (writes.length === 0) return;
  const now = new Date();
  const [rows] = await connection.query<RowDataPacket[]>(
    'INSERT INTO contacts (email, emailKey, externalId, name, `values`, folded, createdAt, updatedAt) VALUES ? RETURNING id',
    [
      writes.map(({ person: { email, externalId, values } }) => [
        email,
        addressKey(email),
        externalId,
        displayName(values, email),
        jsonLiteral(values),
        jsonLiteral(foldedTexts(values, email)),
        now,
        now,
      ]),
    ],
  );
  const ids = rows.map(({ id }) => Number(id));
  for (const id of ids) changes.add('contact', String(id));
  await connection.query(
    `INSERT INTO contact_changes (contactId, at, kind, source, accountName, importId, fields)
     SELECT id, ?, 'added', ?, ?, ?, '{}' FROM contacts WHERE id IN (?)`,
    [now, cause.source, cause.accountName, cause.importId, ids],
  );
}

/** Writes contacts that are there and have an id, and what changed into their history. */
export async function changeContacts(
  connection: Connection,
  writes: readonly (Write & { readonly id: number })[],
  cause: Cause,
  changes: NotedChanges,
): Promise<void> {
  if (writes.length === 0) return;
  for (const { id } of writes) changes.add('contact', String(id));
  const now = new Date();
  await connection.query<ResultSetHeader>(
    `INSERT INTO contacts (id, email, emailKey, externalId, name, \`values\`, folded, createdAt, updatedAt) VALUES ?
     ON DUPLICATE KEY UPDATE email = VALUES(email), emailKey = VALUES(emailKey), externalId = VALUES(externalId),
       name = VALUES(name), \`values\` = VALUES(\`values\`), folded = VALUES(folded), updatedAt = VALUES(updatedAt)`,
    [
      writes.map(({ id, person: { email, externalId, values } }) => [
        id,
        email,
        addressKey(email),
        externalId,
        displayName(values, email),
        jsonLiteral(values),
        jsonLiteral(foldedTexts(values, email)),
        now,
        now,
      ]),
    ],
  );
  await recordChanges(
    connection,
    writes.map(({ id, fields }) => ({ contactId: id, kind: 'changed', fields })),
    cause,
  );
}

/**
 * A value as JSON in a statement. Of what the escaping of any text looks for, JSON holds only two signs, which makes this
 * several times as fast.
 */
function jsonLiteral(value: unknown): { toSqlString(): string } {
  const json = JSON.stringify(value).replaceAll('\\', '\\\\').replaceAll("'", "''");
  return mysql.raw(`'${json}'`);
}

async function recordChanges(
  connection: Connection,
  changes: readonly { contactId: number; kind: ChangeKind; fields: Fields }[],
  { source, accountName, importId }: Cause,
): Promise<void> {
  const now = new Date();
  await connection.query(
    'INSERT INTO contact_changes (contactId, at, kind, source, accountName, importId, fields) VALUES ?',
    [
      changes.map(({ contactId, kind, fields }) => [
        contactId,
        now,
        kind,
        source,
        accountName,
        importId,
        jsonLiteral(fields),
      ]),
    ],
  );
}
