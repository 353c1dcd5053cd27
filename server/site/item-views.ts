import type { ChangeLog } from '../store/change-log.ts';
import type { Sequelize } from '../store/database.ts';
import { addViews, viewsOf } from './rows.ts';

/** How often what was counted is written down, in milliseconds. */
const pause = 10_000;

/**
 * How often each item was opened, by everybody together. Counted in memory, so that no request waits for the database, and
 * written down now and then, when other servers hear of it: what a crash takes is a few seconds of counting.
 */
export class ItemViews {
  readonly counts = new Map<string, number>();
  /** What was counted here and is not written down yet. */
  private readonly added = new Map<string, number>();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly sequelize: Sequelize,
    log: ChangeLog,
  ) {
    log.on(['item-views'], async (changes) => {
      const isAny = changes.some(({ ids }) => ids === null);
      await this.load(isAny ? undefined : [...new Set(changes.flatMap(({ ids }) => ids ?? []))]);
    });
  }

  /** Reads the counts of some items, or of all. */
  async load(ids?: readonly string[]): Promise<void> {
    for (const { itemId, views } of await viewsOf(this.sequelize, ids))
      this.counts.set(itemId, views + (this.added.get(itemId) ?? 0));
  }

  add(itemId: string): void {
    this.counts.set(itemId, (this.counts.get(itemId) ?? 0) + 1);
    this.added.set(itemId, (this.added.get(itemId) ?? 0) + 1);
    this.timer ??= setTimeout(() => void this.write(), pause).unref();
  }

  /** Writes down what was counted since the last time; what can't be written is kept for the next. */
  async write(): Promise<void> {
    clearTimeout(this.timer);
    this.timer = undefined;
    const rows = [...this.added].sort(([one], [other]) => (one < other ? -1 : 1));
    this.added.clear();
    if (rows.length === 0) return;
    try {
      await addViews(this.sequelize, rows);
    } catch {
      for (const [itemId, views] of rows) this.added.set(itemId, (this.added.get(itemId) ?? 0) + views);
      this.timer ??= setTimeout(() => void this.write(), pause).unref();
    }
  }
}
