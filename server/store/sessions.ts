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
  /** The session's data, for readers. */
  readonly data: SessionData;
  expires: number;
  /** When its last use was written to the database. */
  writtenAt: number;
}

/**
 * Sessions in the database, with the recent ones cached: reading a cached session costs no query, and its use is written once
 * an hour. Ending a session takes effect at once, because every change goes through here.
 */
export class Sessions extends session.Store {
  private readonly stored;
  private readonly kept = new LRUCache<string, Kept>({
    max: mostKept,
    dispose: (_kept, sid) => this.keptByKey.delete(sessionKey(sid)),
  });
  /** Cached sessions, by their name in the change log. */
  private readonly keptByKey = new Map<string, string>();
  /** Incremented with every write, so that a concurrent read does not overwrite the cache with older data. */
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

  /** A session's data, for a request that only marks it as used. */
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
   * Ends every site session of a deleted contact, so that nobody stays signed in as someone else.
   */
  async endOf(contactId: number, transaction: Transaction): Promise<void> {
    await this.sequelize.query('DELETE FROM sessions WHERE data REGEXP ?', {
      replacements: [`"contactId":${contactId}[,}]`],
      type: QueryTypes.DELETE,
      transaction,
    });
    noteChange(transaction, 'session', null);
  }

  /** Drops ended sessions from the cache, by their name in the change log; null drops all. */
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

/** The name of a session in the change log, from which the session can't be taken over. */
export function sessionKey(sid: string): string {
  return createHash('sha256').update(sid).digest('hex');
}

function expiryOf({ cookie }: SessionData): number {
  // Read from the database it is text, whatever its type says.
  const expires = cookie.expires ? new Date(cookie.expires).getTime() : Number.NaN;
  return Number.isNaN(expires) ? Date.now() + sessionLasts : expires;
}
