import type { Connection } from '../store/connection.ts';
import type { NotedChanges } from '../store/noted-changes.ts';
import { type Cause, changeContacts, contactsWithValue, type Write } from './bulk-rows.ts';

const atOnce = 1000;

/**
 * Puts the values of one attribute of all contacts through a change, with their history; undefined is no value any more.
 *
 * @returns how many contacts changed
 */
export async function rewriteValues(
  connection: Connection,
  attribute: string,
  change: (value: unknown) => unknown,
  cause: Cause,
  changes: NotedChanges,
): Promise<number> {
  let [last, changed] = [0, 0];
  while (true) {
    const contacts = await contactsWithValue(connection, attribute, { after: last, most: atOnce });
    if (contacts.length === 0) return changed;
    const writes: (Write & { id: number })[] = [];
    for (const { id, ...stored } of contacts) {
      last = id;
      const before = stored.values[attribute];
      const now = change(before);
      if (JSON.stringify(now) === JSON.stringify(before)) continue;
      const { [attribute]: _, ...others } = stored.values;
      const values = now === undefined ? others : { ...others, [attribute]: now };
      writes.push({ id, person: { ...stored, values }, fields: { [attribute]: [before, now ?? null] } });
    }
    await changeContacts(connection, writes, cause, changes);
    changed += writes.length;
  }
}
