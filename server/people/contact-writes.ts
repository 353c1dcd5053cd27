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
