import { createHash } from 'node:crypto';
import SequelizeStoreFactory from 'connect-session-sequelize';
import session, { type SessionData } from 'express-session';
import { LRUCache } from 'lru-cache';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { ChangeLog } from './change-log.ts';
import { noteChange } from './noted-changes.ts';
import { inTransaction, untilDone } from './transaction.ts';

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
  private readonly kept = new LRUCache<string, Kept>({
    max: mostKept,
    dispose: (_kept, sid) => this.keptByKey.delete(sessionKey(sid)),
  });
  /** Those that are kept, by what the log calls them. */
  private readonly keptByKey = new Map<string, string>();
  /** Grows with every write, so that what was read meanwhile is not kept as the newest. */
  private writes = 0;

  constructor(
    private readonly sequelize: Sequelize,
    log: ChangeLog,
  ) {
    super();
    log.on(['session'], (changes) => {
      for (const { ids } of changes) this.forget(ids);
    });
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
    const store = () =>
      new Promise<void>((resolve, reject) => {
        this.stored.set(sid, data, (error: unknown) => (error ? reject(error) : resolve()));
      });
    untilDone(store).then(
      () => {
        this.change(sid);
        this.keep(sid, data, Date.now());
        done?.();
      },
      (error: unknown) => {
        this.change(sid);
        done?.(error);
      },
    );
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
    inTransaction(async (transaction) => {
      await this.sequelize.query('DELETE FROM sessions WHERE sid = ?', {
        replacements: [sid],
        type: QueryTypes.DELETE,
        transaction,
      });
      noteChange(transaction, 'session', sessionKey(sid));
    }).then(
      () => done?.(),
      (error: unknown) => done?.(error),
    );
  }

  /**
   * Ends every session of a contact who is gone on the site: nobody stays signed in as somebody else.
   */
  async endOf(contactId: number, transaction: Transaction): Promise<void> {
    await this.sequelize.query('DELETE FROM sessions WHERE data REGEXP ?', {
      replacements: [`"contactId":${contactId}[,}]`],
      type: QueryTypes.DELETE,
      transaction,
    });
    noteChange(transaction, 'session', null);
  }

  /** Forgets sessions that ended, by what the log calls them; null for all. */
  private forget(keys: readonly string[] | null): void {
    this.writes++;
    for (const key of keys ?? [...this.keptByKey.keys()]) {
      const sid = this.keptByKey.get(key);
      if (sid !== undefined) this.kept.delete(sid);
    }
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
    this.keptByKey.set(sessionKey(sid), sid);
  }
}

/** What the log calls a session, which must not tell how to take it over. */
export function sessionKey(sid: string): string {
  return createHash('sha256').update(sid).digest('hex');
}

function expiryOf({ cookie }: SessionData): number {
  // Read from the database it is text, whatever its type says.
  const expires = cookie.expires ? new Date(cookie.expires).getTime() : Number.NaN;
  return Number.isNaN(expires) ? Date.now() + sessionLasts : expires;
}
