/** A stream of numbers in [0, 1) from a seed: the mulberry32 generator, public domain, by Tommy Ettinger. */
export class Random {
  private state: number;

  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(this.state ^ (this.state >>> 15), this.state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  }

  /** A whole number from `from` to `to`, both included. */
  between(from: number, to: number): number {
    return from + Math.floor(this.next() * (to - from + 1));
  }

  chance(probability: number): boolean {
    return this.next() < probability;
  }

  pick<Item>(items: readonly [Item, ...Item[]]): Item {
    return items[Math.floor(this.next() * items.length)] ?? items[0];
  }
}
