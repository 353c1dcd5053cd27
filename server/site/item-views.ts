import { QueryTypes, type Sequelize } from 'sequelize';

/** How often what was counted is written down, in milliseconds. */
const pause = 10_000;

/**
 * How often each item was opened, by everybody together. Counted in memory, so that no request waits for the database, and
 * written down now and then: what a crash takes is a few seconds of counting.
 */
export class ItemViews {
  readonly counts = new Map<string, number>();
  private readonly added = new Map<string, number>();
  private timer: NodeJS.Timeout | undefined;

  constructor(private readonly sequelize: Sequelize) {}

  async load(): Promise<void> {
    const rows = await this.sequelize.query<{ itemId: string; views: number | string }>(
      'SELECT itemId, views FROM item_views',
      { type: QueryTypes.SELECT },
    );
    for (const { itemId, views } of rows) this.counts.set(itemId, Number(views));
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
    const rows = [...this.added];
    this.added.clear();
    if (rows.length === 0) return;
    try {
      await this.sequelize.query(
        `INSERT INTO item_views (itemId, views) VALUES ${rows.map(() => '(?, ?)').join(', ')}
         ON DUPLICATE KEY UPDATE views = views + VALUES(views)`,
        { replacements: rows.flat() },
      );
    } catch {
      for (const [itemId, views] of rows) this.added.set(itemId, (this.added.get(itemId) ?? 0) + views);
      this.timer ??= setTimeout(() => void this.write(), pause).unref();
    }
  }
}
