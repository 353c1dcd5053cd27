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

/** Contacts whose ids are from one on, to before another; an open end where none is given. */
export interface IdRange {
  readonly from?: number | undefined;
  readonly before?: number | undefined;
}

/**
 * Streams some contacts, so that they are never all in memory as rows.
 *
 * @param which by their ids, or a range of ids
 * @param take given each contact in turn
 */
export function streamContacts(
  access: Access,
  which: readonly number[] | IdRange,
  take: (contact: HeldContact) => void,
): Promise<void> {
  if ('length' in which) return stream(access, `${everybody} WHERE contacts.id IN (?)`, [which], take);
  const { from = 0, before } = which;
  return before === undefined
    ? stream(access, `${everybody} WHERE contacts.id >= ?`, [from], take)
    : stream(access, `${everybody} WHERE contacts.id >= ? AND contacts.id < ?`, [from, before], take);
}

/** The least and greatest id of a contact; undefined where there are none. */
export async function idsOfContacts(
  access: Access,
): Promise<{ least: number; greatest: number } | undefined> {
  const [row] = await asked<{ least: number | null; greatest: number | null }>(
    access,
    'SELECT MIN(id) AS least, MAX(id) AS greatest FROM contacts',
    [],
  );
  return row && row.least !== null && row.greatest !== null
    ? { least: row.least, greatest: row.greatest }
    : undefined;
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
    // As they come: to wait for each would take longer than to read it.
    await new Promise<void>((resolve, reject) => {
      const takeOne = (row: Row) => {
        try {
          take(row);
        } catch (error) {
          reject(error);
          connection.destroy();
        }
      };
      connection.query(sql, values).on('result', takeOne).on('error', reject).on('end', resolve);
    });
  } finally {
    connection.destroy();
  }
}

/** How long the log says what changed of contacts; see {@link ChangeLog}. */
const tokensFor = 6 * 24 * 3600 * 1000;

/** Names what was written down of all contacts, and the place in the log up to which it goes. */
export async function nameImage(access: Access, token: string, position: number): Promise<void> {
  const now = Date.now();
  await asked(access, 'DELETE FROM contact_images WHERE at < ?', [new Date(now - tokensFor)]);
  await asked(access, 'INSERT INTO contact_images (token, position, at) VALUES (?, ?, ?)', [
    token,
    position,
    new Date(now),
  ]);
}

/**
 * The contacts that changed since something of that name was written down; undefined where the database does not know the
 * name, as after an older state of it was brought back, and where too much changed to say.
 */
export async function changedSince(
  access: Access,
  token: string,
  most: number,
): Promise<number[] | undefined> {
  const [known] = await asked<{ position: number | string }>(
    access,
    'SELECT position FROM contact_images WHERE token = ? AND at > ?',
    [token, new Date(Date.now() - tokensFor)],
  );
  if (!known) return undefined;
  const changes = await asked<{ entity: string | null; entities: string | null }>(
    access,
    "SELECT entity, entities FROM changes WHERE kind = 'contact' AND position > ?",
    [known.position],
  );
  const ids = new Set<number>();
  for (const { entity, entities } of changes) {
    const own: unknown = entity === null ? entities && JSON.parse(entities) : [entity];
    if (!Array.isArray(own)) return undefined;
    for (const id of own) ids.add(Number(id));
    if (ids.size > most) return undefined;
  }
  return [...ids];
}

async function asked<Row>(access: Access, sql: string, values: unknown[]): Promise<Row[]> {
  const rows: Row[] = [];
  await stream<Row>(access, sql, values, (row) => rows.push(row));
  return rows;
}
