/**
 * Numbers split where ranges begin and end. A cut lies before a number or after it; between two cuts next to each other no
 * range tells numbers apart. The first interval begins before all numbers and the last ends after them.
 */
export class Cuts {
  /** Where each interval but the first begins, in order. */
  private readonly starts: readonly Cut[];

  /**
   * @param whole whether only whole numbers count, so that 2 is followed by 3
   * @param least and `most` are the ends of what a number can be
   */
  constructor(
    ranges: Iterable<Range>,
    private readonly whole: boolean,
    private readonly least: number,
    private readonly most: number,
  ) {
    const cuts = new Map<string, Cut>();
    const add = (cut: Cut) => {
      const found = whole ? wholeCut(cut) : cut;
      // A cut before the least number or after the greatest parts nothing.
      const partsNothing = found.after
        ? found.at < least || found.at >= most
        : found.at <= least || found.at > most;
      if (!partsNothing) cuts.set(`${found.at} ${found.after}`, found);
    };
    for (const { from, to, withoutFrom = false, withoutTo = false } of ranges) {
      if (Number.isFinite(from)) add({ at: from, after: withoutFrom });
      if (Number.isFinite(to)) add({ at: to, after: !withoutTo });
    }
    const sorted = [...cuts.values()].sort(inOrder);
    // Two doubles that are neighbours have no number between them.
    this.starts = sorted.filter((cut, index) => whole || !isEmpty(cut, sorted[index + 1], most));
  }

  /** How many intervals there are; each has a number in it. */
  get count(): number {
    return this.starts.length + 1;
  }

  /** The intervals that lie in a range: from one to before another, none where these are the same. */
  within({ from, to, withoutFrom = false, withoutTo = false }: Range): [from: number, until: number] {
    const start = Number.isFinite(from)
      ? this.firstFrom({ at: from, after: withoutFrom })
      : from > 0
        ? this.count
        : 0;
    const end = Number.isFinite(to) ? this.firstFrom({ at: to, after: !withoutTo }) : to < 0 ? 0 : this.count;
    return [start, Math.max(start, end)];
  }

  /** The index of the interval that contains a number. */
  placeOf(number: number): number {
    let [low, high] = [0, this.starts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      const cut = this.starts[middle];
      if (cut && (cut.after ? cut.at < number : cut.at <= number)) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The least and the greatest whole number of an interval. */
  ends(interval: number): [least: number, greatest: number] {
    const [start, end] = [this.starts[interval - 1], this.starts[interval]];
    return [start ? start.at : this.least, end ? end.at - 1 : this.most];
  }

  /** A number in an interval: the one that it begins or ends with where it does, otherwise one in its middle. */
  inside(interval: number): number {
    const [start, end] = [this.starts[interval - 1], this.starts[interval]];
    if (this.whole) {
      const [least, greatest] = this.ends(interval);
      if (start) return least;
      return end ? greatest : Math.min(Math.max(0, least), greatest);
    }
    if (start && !start.after) return start.at;
    if (end?.after) return end.at;
    if (!start) return end ? below(end.at, this.least) : 0;
    return end ? between(start.at, end.at) : above(start.at, this.most);
  }

  /** The bounds of an interval, undefined where it is unbounded, and whether each bound belongs to it. */
  bounds(interval: number): { from: Cut | undefined; to: Cut | undefined } {
    return { from: this.starts[interval - 1], to: this.starts[interval] };
  }

  private firstFrom(cut: Cut): number {
    const wanted = this.whole ? wholeCut(cut) : cut;
    let [low, high] = [0, this.starts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      const found = this.starts[middle];
      if (found && inOrder(found, wanted) < 0) low = middle + 1;
      else high = middle;
    }
    const found = this.starts[low];
    if (found && inOrder(found, wanted) === 0) return low + 1;
    // A cut is redundant at either end, or where no number is between it and the next cut.
    const isBeforeAll = wanted.after ? wanted.at < this.least : wanted.at <= this.least;
    return isBeforeAll ? 0 : low + 1;
  }
}

/** A place between numbers: right before one, or right after it. */
export interface Cut {
  readonly at: number;
  readonly after: boolean;
}

interface Range {
  readonly from: number;
  readonly to: number;
  readonly withoutFrom?: boolean | undefined;
  readonly withoutTo?: boolean | undefined;
}

function inOrder(left: Cut, right: Cut): number {
  return left.at - right.at || Number(left.after) - Number(right.after);
}

/** A cut among whole numbers, always right before one. */
function wholeCut({ at, after }: Cut): Cut {
  return { at: after ? Math.floor(at) + 1 : Math.ceil(at), after: false };
}

/** Whether there is no double between a cut and the next. */
function isEmpty(cut: Cut, next: Cut | undefined, most: number): boolean {
  if (!cut.after) return false;
  if (!next) return cut.at >= most;
  if (next.after) return false;
  const middle = between(cut.at, next.at);
  return middle <= cut.at || middle >= next.at;
}

function between(low: number, high: number): number {
  const middle = low + (high - low) / 2;
  return Number.isFinite(middle) ? middle : low / 2 + high / 2;
}

function below(number: number, least: number): number {
  const lower = number - Math.max(1, Math.abs(number) / 2);
  return Number.isFinite(lower) && lower < number ? Math.max(lower, least) : between(least, number);
}

function above(number: number, most: number): number {
  const higher = number + Math.max(1, Math.abs(number) / 2);
  return Number.isFinite(higher) && higher > number ? Math.min(higher, most) : between(number, most);
}
