import { QueryTypes, type Sequelize } from 'sequelize';
import { changeBy } from '../store/single-change.ts';

/** Who was heard of longer ago than this is gone, in seconds. */
const goneAfter = 15;

/** Who has which page or email open right now, by whichever server. */
export class Presence {
  constructor(private readonly sequelize: Sequelize) {}

  /** Says that somebody has a document open, and tells who else has, by name. */
  async here(document: string, account: { id: number; name: string }): Promise<string[]> {
    await changeBy(
      this.sequelize,
      `INSERT INTO presence (documentId, accountId, name, seenAt) VALUES (?, ?, ?, UTC_TIMESTAMP(3))
       ON DUPLICATE KEY UPDATE name = VALUES(name), seenAt = VALUES(seenAt)`,
      [document, account.id, account.name],
    );
    const others = await this.sequelize.query<{ name: string }>(
      `SELECT name FROM presence WHERE documentId = ? AND accountId <> ?
         AND seenAt > UTC_TIMESTAMP(3) - INTERVAL ${goneAfter} SECOND ORDER BY name`,
      { replacements: [document, account.id], type: QueryTypes.SELECT },
    );
    return others.map(({ name }) => name);
  }

  async gone(document: string, accountId: number): Promise<void> {
    await changeBy(this.sequelize, 'DELETE FROM presence WHERE documentId = ? AND accountId = ?', [
      document,
      accountId,
    ]);
  }

  /** Removes who was not heard of for long. */
  async clear(): Promise<void> {
    await changeBy(this.sequelize, 'DELETE FROM presence WHERE seenAt < UTC_TIMESTAMP(3) - INTERVAL 1 DAY');
  }
}
