import mysql from 'mysql2';
import { type Access, livingHost } from '../store/hosts.ts';

/** What is held of a contact in memory. */
export interface HeldContact {
  readonly id: number;
  readonly email: string;
  readonly name: string;
  readonly values: string | { readonly [attribute: string]: unknown };
  readonly hasAccount: number;
}

const everybody =
  'SELECT contacts.id, contacts.email, contacts.name, contacts.`values`, site_accounts.contactId IS NOT NULL AS hasAccount FROM contacts LEFT JOIN site_accounts ON site_accounts.contactId = contacts.id';

/**
 * Reads some contacts, or all, as a stream, so that they are never all there at once.
 *
 * @param take given each contact in turn
 */
export function streamContacts(
  access: Access,
  ids: readonly number[] | undefined,
  take: (contact: HeldContact) => void,
): Promise<void> {
  return ids
    ? stream(access, `${everybody} WHERE contacts.id IN (?)`, [ids], take)
    : stream(access, everybody, [], take);
}

/** Reads the ids of all contacts in the order of their names. */
export function streamIdsByName(access: Access, take: (id: number) => void): Promise<void> {
  return stream<{ id: number }>(access, 'SELECT id FROM contacts ORDER BY name, id', [], ({ id }) =>
    take(id),
  );
}

/** Reads rows one after another, on a connection of its own. */
async function stream<Row>(
  access: Access,
  sql: string,
  values: unknown[],
  take: (row: Row) => void,
): Promise<void> {
  const { user, password, database } = access;
  const host = await livingHost(access);
  const connection = mysql.createConnection({ ...host, user, password, database, charset: 'utf8mb4' });
  try {
    for await (const row of connection.query(sql, values).stream({ highWaterMark: 1000 })) take(row);
  } finally {
    connection.destroy();
  }
}
