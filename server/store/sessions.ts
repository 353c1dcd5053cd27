import SequelizeStoreFactory from 'connect-session-sequelize';
import session, { type SessionData } from 'express-session';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/** How long a session lasts after it was last used, in milliseconds. */
export const sessionLasts = 30 * 24 * 3600 * 1000;
const writesUseEvery = 3600 * 1000;
const mostKept = 10_000;

interface Kept {
  readonly text: string;
  /** What it holds, for those who only read it. */
  readonly data: SessionData;
  expires: number;
  /** When its use was last written to the database. */
  writtenAt: number;
}

/**
 * Sessions in the database, the latest kept at hand: reading one that is asked for again costs no question, and its
 * use is written once an hour. What ends a session ends it at once, as all of it goes through here.
 */
export class Sessions extends session.Store {
  private readonly stored;
  private readonly kept = new Map<string, Kept>();
  /** Grows with every write, so that what was read meanwhile is not kept as the newest. */
  private writes = 0;

  constructor(private readonly sequelize: Sequelize) {
    super();
    this.stored = new (SequelizeStoreFactory(session.Store))({
      db: sequelize,
      tableName: 'sessions',
      checkExpirationInterval: 15 * 60 * 1000,
      expiration: sessionLasts,
    });
  }

  override get(sid: string, answer: (error: unknown, found?: SessionData | null) => void): void {
    const kept = this.kept.get(sid);
    if (kept && kept.expires > Date.now()) {
      answer(null, JSON.parse(kept.text));
      return;
    }
    this.kept.delete(sid);
    const { writes } = this;
    this.stored.get(sid, (error: unknown, found?: SessionData | null) => {
      if (found && writes === this.writes) this.keep(sid, found, 0);
      answer(error, found);
    });
  }

  /** What a session holds, for a request that changes nothing of it but that it was used. */
  use(sid: string, answer: (error: unknown, found?: Readonly<SessionData> | null) => void): void {
    const now = Date.now();
    const kept = this.kept.get(sid);
    if (kept && kept.expires > now && now - kept.writtenAt < writesUseEvery) {
      kept.expires = now + sessionLasts;
      answer(null, kept.data);
      return;
    }
    this.get(sid, (error, found) => {
      if (!found) return answer(error, found);
      found.cookie.expires = new Date(now + sessionLasts);
      this.touch(sid, found, () => answer(error, found));
    });
  }

  override set(sid: string, data: SessionData, done?: (error?: unknown) => void): void {
    this.change(sid);
    this.stored.set(sid, data, (error: unknown) => {
      this.change(sid);
      if (!error) this.keep(sid, data, Date.now());
      done?.(error);
    });
  }

  override touch(sid: string, data: SessionData, done?: (error?: unknown) => void): void {
    const kept = this.kept.get(sid);
    if (kept) kept.expires = expiryOf(data);
    if (kept && Date.now() - kept.writtenAt < writesUseEvery) {
      done?.();
      return;
    }
    if (kept) kept.writtenAt = Date.now();
    this.stored.touch(sid, data, () => done?.());
  }

  override destroy(sid: string, done?: (error?: unknown) => void): void {
    this.change(sid);
    this.stored.destroy(sid, (error: unknown) => {
      this.change(sid);
      done?.(error);
    });
  }

  /**
   * Ends every session of a contact who is gone on the site: nobody stays signed in as somebody else. {@link forget} is
   * to be called once the transaction is through.
   */
  async endOf(contactId: number, transaction: Transaction): Promise<void> {
    await this.sequelize.query('DELETE FROM sessions WHERE data REGEXP ?', {
      replacements: [`"contactId":${contactId}[,}]`],
      type: QueryTypes.DELETE,
      transaction,
    });
  }

  /** To be called after sessions were ended in the database. */
  forget(): void {
    this.writes++;
    this.kept.clear();
  }

  stop(): void {
    this.stored.stopExpiringSessions();
  }

  private change(sid: string): void {
    this.writes++;
    this.kept.delete(sid);
  }

  private keep(sid: string, data: SessionData, writtenAt: number): void {
    this.kept.delete(sid);
    const text = JSON.stringify(data);
    this.kept.set(sid, { text, data: JSON.parse(text), expires: expiryOf(data), writtenAt });
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= mostKept) break;
      this.kept.delete(oldest);
    }
  }
}

function expiryOf({ cookie }: SessionData): number {
  // Read from the database it is text, whatever its type says.
  const expires = cookie.expires ? new Date(cookie.expires).getTime() : Number.NaN;
  return Number.isNaN(expires) ? Date.now() + sessionLasts : expires;
}
