/**
 * The place of every contact in the order of names, so that a million of them are put in order by comparing numbers. It
 * is read once from the database, whose index has the names in order, and kept right as contacts change.
 */
export class NameOrder {
  private places = new Uint32Array(0);

  /** @param order the ids of all contacts by name */
  constructor(private order: Uint32Array) {
    this.number();
  }

  /** Where a contact stands, from 1; 0 for one that is not known. */
  placeOf(id: number): number {
    return this.places[id] ?? 0;
  }

  /**
   * Puts contacts where they belong now.
   *
   * @param changed those that came, changed or went
   * @param nameOf the name that one has; undefined for one that is gone
   */
  update(
    changed: ReadonlySet<number>,
    nameOf: (id: number) => string | undefined,
    compare: (one: string, two: string) => number,
  ): void {
    const before = (one: number, two: number): boolean =>
      (compare(nameOf(one) ?? '', nameOf(two) ?? '') || one - two) < 0;
    const stayed = this.order.filter((id) => !changed.has(id));
    const come = [...changed]
      .filter((id) => nameOf(id) !== undefined)
      .sort((one, two) => (before(one, two) ? -1 : 1));
    const made = new Uint32Array(stayed.length + come.length);
    let from = 0;
    for (const [index, id] of come.entries()) {
      let [low, high] = [from, stayed.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (before(stayed[middle] ?? 0, id)) low = middle + 1;
        else high = middle;
      }
      made.set(stayed.subarray(from, low), from + index);
      made[low + index] = id;
      from = low;
    }
    made.set(stayed.subarray(from), from + come.length);
    this.order = made;
    this.number();
  }

  private number(): void {
    let last = 0;
    for (const id of this.order) if (id > last) last = id;
    this.places = new Uint32Array(last + 1);
    for (let at = 0; at < this.order.length; at++) this.places[this.order[at] ?? 0] = at + 1;
  }
}
