/**
 * The place of every contact in the order of names, so that a million of them are put in order by comparing numbers. It
 * is read once from the database, whose index has the names in order, and kept right as contacts change.
 */
export class NameOrder {
  private places = new Uint32Array(0);

  /** @param order the ids of all contacts by name */
  constructor(private order: Uint32Array) {
    this.makeRoomFor(order);
    this.number(0, order.length);
  }

  /** The ids of all contacts by name. */
  get ids(): Uint32Array {
    return this.order;
  }

  /** Where a contact stands, from 1; 0 for one that is not known. */
  placeOf(id: number): number {
    return this.places[id] ?? 0;
  }

  /**
   * Puts contacts where they belong now. Whatever lies between them is copied in one piece, so that one change costs one
   * copy and renumbering the contacts behind it.
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
    const left = [...changed].filter((id) => this.placeOf(id) > 0);
    const stayed = new Stayed(
      this.order,
      left.map((id) => this.placeOf(id) - 1),
    );
    const come = [...changed]
      .filter((id) => nameOf(id) !== undefined)
      .sort((one, two) => (before(one, two) ? -1 : 1));
    if (left.length === 0 && come.length === 0) return;
    for (const id of left) this.places[id] = 0;
    this.makeRoomFor(come);

    const made = new Uint32Array(stayed.length + come.length);
    let from = 0;
    let [first, last] = [stayed.firstGap, stayed.lastGap];
    for (const [index, id] of come.entries()) {
      let [low, high] = [from, stayed.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (before(stayed.at(middle), id)) low = middle + 1;
        else high = middle;
      }
      stayed.copy(from, low, made, from + index);
      made[low + index] = id;
      first = Math.min(first, low + index);
      last = Math.max(last, low + index);
      from = low;
    }
    stayed.copy(from, stayed.length, made, from + come.length);
    const isShifted = made.length !== this.order.length;
    this.order = made;
    this.number(first, isShifted ? made.length : last + 1);
  }

  /** Records where the contacts between two positions of the order stand. */
  private number(from: number, to: number): void {
    for (let at = from; at < to; at++) this.places[this.order[at] ?? 0] = at + 1;
  }

  private makeRoomFor(ids: Iterable<number>): void {
    let most = 0;
    for (const id of ids) if (id > most) most = id;
    if (most < this.places.length) return;
    // Some more than is needed, as the next to come have higher numbers.
    const places = new Uint32Array(Math.ceil(1.1 * (most + 1)));
    places.set(this.places);
    this.places = places;
  }
}

/** An order without those at some places, which are few. */
class Stayed {
  readonly length: number;
  /** The places that are left out, and how many of those that stayed stand before each. */
  private readonly gaps: readonly number[];
  private readonly standBefore: readonly number[];

  constructor(
    private readonly order: Uint32Array,
    gaps: readonly number[],
  ) {
    this.gaps = [...gaps].sort((one, other) => one - other);
    this.standBefore = this.gaps.map((gap, index) => gap - index);
    this.length = order.length - gaps.length;
  }

  get firstGap(): number {
    return this.gaps[0] ?? Number.POSITIVE_INFINITY;
  }

  get lastGap(): number {
    return this.gaps.at(-1) ?? -1;
  }

  at(index: number): number {
    return this.order[index + this.gapsUpTo(index)] ?? 0;
  }

  /** Copies those from one index up to another to a place in another order. */
  copy(from: number, to: number, into: Uint32Array, place: number): void {
    let next = from;
    while (next < to) {
      const gaps = this.gapsUpTo(next);
      const end = Math.min(to, this.standBefore[gaps] ?? to);
      into.set(this.order.subarray(next + gaps, end + gaps), place + next - from);
      next = end;
    }
  }

  /** How many places are left out before one that stayed. */
  private gapsUpTo(index: number): number {
    let [low, high] = [0, this.standBefore.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((this.standBefore[middle] ?? 0) <= index) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
