/** Who was heard of longer ago than this is gone, in milliseconds. */
const goneAfter = 15_000;

/** Who has which page or email open right now. Kept in memory only: it is true for seconds. */
export class Presence {
  private readonly seen = new Map<string, Map<number, { name: string; at: number }>>();

  /** Says that somebody has a document open, and tells who else has, by name. */
  here(document: string, account: { id: number; name: string }, now = Date.now()): string[] {
    const people = this.seen.get(document) ?? new Map();
    people.set(account.id, { name: account.name, at: now });
    for (const [id, { at }] of people) if (now - at > goneAfter) people.delete(id);
    this.seen.set(document, people);
    return [...people].flatMap(([id, { name }]) => (id === account.id ? [] : [name])).sort();
  }

  gone(document: string, accountId: number): void {
    const people = this.seen.get(document);
    people?.delete(accountId);
    if (people?.size === 0) this.seen.delete(document);
  }
}
