import { setTimeout as delay } from 'node:timers/promises';
import { QueryTypes, type Sequelize, Transaction } from 'sequelize';
import {
  type LoggedChange,
  type LoggedKind,
  loggedChangeSchema,
  loggedKinds,
} from '../../contract/changes.ts';
import { amongOthers } from './among-others.ts';

/** The logs that this process follows, by connection. */
const followed = new WeakMap<Sequelize, Set<ChangeLog>>();

/** How often to poll for changes of other processes, in milliseconds. */
const pause = 150;
const mostAtOnce = 5000;
/** How long changes are kept for followers, in milliseconds. */
const keptFor = 3_600_000;
/** How long changes of contacts are kept, in milliseconds: servers catch up from the image they wrote when they stopped. */
const contactsKeptFor = 7 * 24 * keptFor;
/** How long a request waits at most for a change that its client has seen, in milliseconds. */
const longestWait = 1000;

type Told = (changes: readonly LoggedChange[]) => void | Promise<void>;

/**
 * The changes of all processes to the database, in commit order.
 *
 * A transaction appends its changes without a position: auto-increment ids are no order, since a lower id can be committed
 * after a higher one. Readers then assign positions to committed changes that have none, one process at a time. So positions
 * have no gaps, and no change ever appears below a position that was already read.
 */
export class ChangeLog {
  private readonly listeners = new Set<{ readonly kinds: ReadonlySet<LoggedKind>; readonly told: Told }>();
  private last: Promise<void> = Promise.resolve();
  private next: Promise<void> | undefined;
  private timer: NodeJS.Timeout | undefined;
  private cleanedAt = Date.now();
  private isStopped = false;
  private isPatient = true;
  /** Whether the last poll saw changes without a position and left them to others. */
  private sawWaiting = false;

  private constructor(
    private readonly sequelize: Sequelize,
    private reached: number,
  ) {}

  /** Opens the log at its current end. Whatever is read from the database afterwards includes every earlier change. */
  static async open(sequelize: Sequelize): Promise<ChangeLog> {
    await givePositions(sequelize);
    const log = new ChangeLog(sequelize, await lastPosition(sequelize));
    followed.set(sequelize, (followed.get(sequelize) ?? new Set()).add(log));
    return log;
  }

  /**
   * Notifies the listeners of this process of what it just committed. If the database is unreachable by now, they are
   * notified later.
   */
  static async tellOwn(sequelize: Sequelize): Promise<void> {
    const logs = [...(followed.get(sequelize) ?? [])];
    await Promise.all(logs.map((log) => log.follow().catch(() => undefined)));
  }

  /** The position up to which all listeners of this process have been notified. */
  get position(): number {
    return this.reached;
  }

  /**
   * Subscribes to changes of some kinds, which are delivered at least once. The log does not advance until the listener is
   * done, nor if it fails. A listener must not write to the database. Returns a function that unsubscribes.
   */
  on(kinds: readonly LoggedKind[], told: Told): () => void {
    const listener = { kinds: new Set(kinds), told };
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Assigns positions to committed changes that have none and delivers everything; resolves when all listeners are done.
   *
   * @param isPatient whether to leave changes without a position to the process that made them until the next poll, so that two processes rarely assign positions at once
   */
  follow(isPatient = false): Promise<void> {
    if (!isPatient) this.isPatient = false;
    if (!this.next) {
      const next = this.last
        .catch(() => undefined)
        .then(() => {
          this.next = undefined;
          return this.catchUp();
        });
      this.next = next;
      this.last = next;
    }
    return this.next;
  }

  /** All changes after a position, up to the one that this process has reached. */
  async since(position: number): Promise<readonly LoggedChange[]> {
    if (position >= this.reached) return [];
    const { changes } = await this.after(position);
    const isWhole = followsWhole(changes, position) && changes.length < mostAtOnce;
    return isWhole ? changes : everything(this.reached);
  }

  /** Waits until this process has reached a position; false after a second. */
  async until(position: number, atMost = longestWait): Promise<boolean> {
    const end = Date.now() + atMost;
    while (this.reached < position) {
      const isLate = await Promise.race([
        this.follow().then(
          () => false,
          () => false,
        ),
        delay(Math.max(0, end - Date.now()), true, { ref: false }),
      ]);
      if (this.reached >= position) break;
      if (isLate || Date.now() >= end) return false;
      await delay(10);
    }
    return true;
  }

  /** Starts to poll for changes of other processes. */
  start(): void {
    const later = () => {
      if (!this.isStopped) this.timer = setTimeout(look, pause).unref();
    };
    // If the database is unreachable, the next poll tries again.
    const look = () =>
      this.follow(true)
        .then(() => this.clean())
        .then(later, later);
    later();
  }

  async stop(): Promise<void> {
    this.isStopped = true;
    followed.get(this.sequelize)?.delete(this);
    clearTimeout(this.timer);
    await this.last.catch(() => undefined);
  }

  private async catchUp(): Promise<void> {
    const isPatient = this.isPatient && !this.sawWaiting;
    this.isPatient = true;
    let found = await this.after(this.reached);
    this.sawWaiting = found.isWaiting && isPatient;
    if (found.isWaiting && !isPatient) {
      await givePositions(this.sequelize);
      found = await this.after(this.reached);
    }
    for (;;) {
      const { changes } = found;
      const latest = changes.at(-1);
      if (!latest) return;
      await this.tell(followsWhole(changes, this.reached) ? changes : everything(latest.position));
      this.reached = latest.position;
      if (changes.length < mostAtOnce) return;
      found = await this.after(this.reached);
    }
  }

  private async tell(changes: readonly LoggedChange[]): Promise<void> {
    const told = [...this.listeners].map(async (listener) => {
      const its = changes.filter(({ kind }) => listener.kinds.has(kind));
      if (its.length > 0) await listener.told(its);
    });
    const outcomes = await Promise.allSettled(told);
    for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
  }

  /** The changes after a position, and whether some have no position yet. */
  private async after(position: number): Promise<{ changes: LoggedChange[]; isWaiting: boolean }> {
    const rows = await this.sequelize.query<StoredChange>(
      `SELECT position, kind, entity, entities, revision FROM changes WHERE position > ? OR position IS NULL
       ORDER BY position LIMIT ${mostAtOnce}`,
      { replacements: [position], type: QueryTypes.SELECT },
    );
    const changes = rows.filter((row) => row.position !== null);
    return { changes: changes.map(readChange), isWaiting: changes.length < rows.length };
  }

  /** Deletes changes that no follower can still need. */
  private async clean(): Promise<void> {
    const now = Date.now();
    if (now - this.cleanedAt < keptFor / 4) return;
    this.cleanedAt = now;
    await this.sequelize.query(
      "DELETE FROM changes WHERE at < ? AND (kind <> 'contact' OR at < ?) AND position IS NOT NULL",
      {
        replacements: [new Date(now - keptFor), new Date(now - contactsKeptFor)],
        type: QueryTypes.DELETE,
      },
    );
  }
}

/** Whether changes are complete since a position: of old changes only those of contacts are kept. */
function followsWhole(changes: readonly LoggedChange[], position: number): boolean {
  return changes[0]?.position === position + 1 && changes.at(-1)?.position === position + changes.length;
}

interface StoredChange {
  readonly position: number | string | null;
  readonly kind: string;
  readonly entity: string | null;
  readonly entities: string | null;
  readonly revision: number | null;
}

function readChange({ position, kind, entity, entities, revision }: StoredChange): LoggedChange {
  const ids: unknown = entity === null ? entities && JSON.parse(entities) : [entity];
  return loggedChangeSchema.parse({ position: Number(position), kind, ids, revision });
}

/** Sent to a follower that was away for longer than changes are kept. */
function everything(position: number): LoggedChange[] {
  return loggedKinds.map((kind) => ({ position, kind, ids: null, revision: null }));
}

async function lastPosition(sequelize: Sequelize, transaction?: Transaction): Promise<number> {
  const [row] = await sequelize.query<{ last: number | string }>(
    `SELECT last FROM change_position WHERE id = 1${transaction ? ' FOR UPDATE' : ''}`,
    { type: QueryTypes.SELECT, ...(transaction && { transaction }) },
  );
  if (!row) throw new Error('the log of changes has lost its position');
  return Number(row.last);
}

/** Assigns positions to all committed changes that have none. */
async function givePositions(sequelize: Sequelize): Promise<void> {
  let given: number;
  do given = await amongOthers(() => givePositionsAtOnce(sequelize));
  while (given === mostAtOnce);
}

/** Assigns positions in one transaction, one process at a time. Returns how many. */
function givePositionsAtOnce(sequelize: Sequelize): Promise<number> {
  const { READ_COMMITTED } = Transaction.ISOLATION_LEVELS;
  return sequelize.transaction({ isolationLevel: READ_COMMITTED }, async (transaction) => {
    // Other processes wait here and then read the positions assigned by this one.
    const last = await lastPosition(sequelize, transaction);
    // Cluster nodes interleave their auto-increment ids, so changes of one entity are ordered by its revision.
    const waiting = await sequelize.query<{ id: number | string }>(
      `SELECT id FROM changes WHERE position IS NULL ORDER BY COALESCE(revision, 0), id LIMIT ${mostAtOnce}`,
      { type: QueryTypes.SELECT, transaction },
    );
    if (waiting.length === 0) return 0;
    const ids = waiting.map(({ id }) => Number(id));
    await sequelize.query('UPDATE changes SET position = :last + FIELD(id, :ids) WHERE id IN (:ids)', {
      replacements: { last, ids },
      type: QueryTypes.UPDATE,
      transaction,
    });
    await sequelize.query('UPDATE change_position SET last = ? WHERE id = 1', {
      replacements: [last + ids.length],
      type: QueryTypes.UPDATE,
      transaction,
    });
    return ids.length;
  });
}
