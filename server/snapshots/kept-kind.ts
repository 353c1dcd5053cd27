import type { Drafted, DraftedKind } from '../store/drafted-kind.ts';
import { OneByOne } from '../work/one-by-one.ts';

/** Where more of a kind than this changed, all are read. */
const mostSingly = 200;

/**
 * What is drafted of one kind, of which only what changed is read again. As long as nothing did, it is the same array, and
 * what stays as it was is the same object in the next.
 */
export class KeptKind<Value> {
  private readonly known = new Map<string, Drafted<Value>>();
  private order: readonly string[] = [];
  private values: Value[] = [];
  private stale: Set<string> | 'all' = 'all';
  private readonly reading = new OneByOne();

  constructor(private readonly kind: DraftedKind<Value>) {}

  /** @param ids what may have changed; null for anything */
  forget(ids: readonly string[] | null): void {
    if (ids === null) this.stale = 'all';
    else if (this.stale !== 'all') for (const id of ids) this.stale.add(id);
  }

  /** All in their order, for reading only. */
  get(): Promise<Value[]> {
    return this.reading.after(() => this.fresh());
  }

  private async fresh(): Promise<Value[]> {
    const stale = this.stale;
    // What changes from here on is read the next time.
    this.stale = new Set();
    try {
      if (stale === 'all' || stale.size > mostSingly) await this.readAll();
      else if (stale.size > 0) await this.readSome([...stale]);
    } catch (error) {
      this.forget(stale === 'all' ? null : [...stale]);
      throw error;
    }
    return this.values;
  }

  private async readAll(): Promise<void> {
    const all = await this.kind.read();
    this.known.clear();
    for (const one of all) this.known.set(one.id, one);
    this.order = all.map(({ id }) => id);
    this.collect();
  }

  private async readSome(ids: readonly string[]): Promise<void> {
    const found = new Map((await this.kind.read(ids)).map((one) => [one.id, one]));
    const isMoved = ids.some((id) => found.get(id)?.place !== this.known.get(id)?.place);
    const order = isMoved ? await this.kind.order() : this.order;
    for (const id of ids) {
      const one = found.get(id);
      if (one) this.known.set(id, one);
      else this.known.delete(id);
    }
    // A row that was added after that read is left out; its entry in the change log brings it in.
    this.order = order.filter((id) => this.known.has(id));
    this.collect();
  }

  private collect(): void {
    this.values = this.order.flatMap((id) => {
      const one = this.known.get(id);
      return one ? [one.value] : [];
    });
  }
}
