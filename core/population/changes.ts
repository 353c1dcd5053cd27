/** The number of changed rows from which rebuilding an index is cheaper than updating it. */
const mostChanged = 20_000;

/** The rows that were set since an index was made, while there are few, each with what the index knows for it. */
export class Changes {
  readonly before = new Map<number, number>();
  /** Whether there were too many to go on with the index. */
  tooMany = false;

  add(row: number, before: number): void {
    if (this.tooMany || this.before.has(row)) return;
    this.before.set(row, before);
    if (this.before.size <= mostChanged) return;
    this.tooMany = true;
    this.before.clear();
  }

  /** Takes all rows as changed, so that the index is made when it is first asked. */
  addAll(): void {
    this.tooMany = true;
    this.before.clear();
  }

  clear(): void {
    this.before.clear();
    this.tooMany = false;
  }

  get size(): number {
    return this.tooMany ? Number.POSITIVE_INFINITY : this.before.size;
  }
}
