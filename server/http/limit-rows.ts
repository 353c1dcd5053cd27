import { createHash } from 'node:crypto';
import type { ClientRateLimitInfo, Options, Store } from 'express-rate-limit';
import { QueryTypes, type Sequelize } from 'sequelize';
import { changeBy } from '../store/single-change.ts';

/** Counts how often something is done in a time, by all servers together. */
export class SharedCounts {
  constructor(private readonly sequelize: Sequelize) {}

  /**
   * Counts one more.
   *
   * @param of what is counted, and for whom
   * @param lasts for how long from the first one it is counted, in milliseconds
   */
  async add(of: string, lasts: number): Promise<{ hits: number; until: Date }> {
    const name = nameOf(of);
    await changeBy(
      this.sequelize,
      `INSERT INTO limit_counts (name, hits, until)
       VALUES (:name, 1, UTC_TIMESTAMP(3) + INTERVAL :lasts MICROSECOND)
       ON DUPLICATE KEY UPDATE hits = IF(until <= UTC_TIMESTAMP(3), 1, hits + 1),
         until = IF(until <= UTC_TIMESTAMP(3), VALUES(until), until)`,
      { name, lasts: lasts * 1000 },
    );
    const [row] = await this.sequelize.query<{ hits: number; until: Date }>(
      'SELECT hits, until FROM limit_counts WHERE name = ?',
      { replacements: [name], type: QueryTypes.SELECT },
    );
    return row ?? { hits: 1, until: new Date(Date.now() + lasts) };
  }

  /** Takes one back. */
  async takeBack(of: string): Promise<void> {
    await changeBy(this.sequelize, 'UPDATE limit_counts SET hits = hits - 1 WHERE name = ? AND hits > 0', [
      nameOf(of),
    ]);
  }

  async forget(of: string): Promise<void> {
    await changeBy(this.sequelize, 'DELETE FROM limit_counts WHERE name = ?', [nameOf(of)]);
  }

  /** Removes what is counted no more. */
  async clear(): Promise<void> {
    await changeBy(this.sequelize, 'DELETE FROM limit_counts WHERE until < UTC_TIMESTAMP(3)');
  }

  /** What express-rate-limit counts in. */
  storeOf(what: string): Store {
    let lasts = 60_000;
    return {
      localKeys: false,
      init: (options: Options) => {
        lasts = options.windowMs;
      },
      increment: async (key: string): Promise<ClientRateLimitInfo> => {
        const { hits, until } = await this.add(`${what} ${key}`, lasts);
        return { totalHits: hits, resetTime: until };
      },
      decrement: (key: string) => this.takeBack(`${what} ${key}`),
      resetKey: (key: string) => this.forget(`${what} ${key}`),
    };
  }
}

/** Whom something is counted for is nobody's business; what is kept tells only whether it is the same again. */
function nameOf(of: string): string {
  return createHash('sha256').update(of).digest('hex');
}
