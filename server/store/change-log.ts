import { setTimeout as delay } from 'node:timers/promises';
import { QueryTypes, type Sequelize, Transaction } from 'sequelize';
import {
  type LoggedChange,
  type LoggedKind,
  loggedChangeSchema,
  loggedKinds,
} from '../../contract/changes.ts';
import { amongOthers } from './among-others.ts';

/** The logs that are followed in this process, by connection. */
const followed = new WeakMap<Sequelize, Set<ChangeLog>>();

/** How often it is looked whether another process changed something, in milliseconds. */
const pause = 150;
const mostAtOnce = 5000;
/** How long changes are kept for those that follow them, in milliseconds. */
const keptFor = 3_600_000;
/** How long those of contacts are kept, for servers that wrote contacts down before they stopped. */
const contactsKeptFor = 7 * 24 * keptFor;
/** How long a request waits at most for a change that it was told of, in milliseconds. */
const longestWait = 1000;

type Told = (changes: readonly LoggedChange[]) => void | Promise<void>;

/**
 * What was changed in the database, by whichever process, in the order in which it was committed.
 *
 * A transaction appends its changes without a position; the numbers that a database gives on insertion are no order, as a
 * lower one can be committed after a higher one. Whoever reads the log gives positions to what is committed and has none
 * yet, one process at a time. So positions have no gaps, and nothing ever appears below one that was seen.
 */
export class ChangeLog {
  private readonly listeners = new Set<{ readonly kinds: ReadonlySet<LoggedKind>; readonly told: Told }>();
  private last: Promise<void> = Promise.resolve();
  private next: Promise<void> | undefined;
  private timer: NodeJS.Timeout | undefined;
  private cleanedAt = Date.now();
  private isStopped = false;
  private isPatient = true;
  /** Whether there were changes without a position the last time, which were left to others. */
  private sawWaiting = false;

  private constructor(
    private readonly sequelize: Sequelize,
    private reached: number,
  ) {}

  /** The log from now on. What is read from the database after this holds everything before. */
  static async open(sequelize: Sequelize): Promise<ChangeLog> {
    await givePositions(sequelize);
    const log = new ChangeLog(sequelize, await lastPosition(sequelize));
    followed.set(sequelize, (followed.get(sequelize) ?? new Set()).add(log));
    return log;
  }

  /**
   * Has everybody in this process told of what it just committed. That is done in any case: where the database is gone by
   * now, they are told later.
   */
  static async tellOwn(sequelize: Sequelize): Promise<void> {
    const logs = [...(followed.get(sequelize) ?? [])];
    await Promise.all(logs.map((log) => log.follow().catch(() => undefined)));
  }

  /** The position up to which everybody here was told of everything. */
  get position(): number {
    return this.reached;
  }

  /**
   * Has somebody told of every change of some kinds, possibly more than once. Until it is done with them, or when it
   * fails, the log stays where it is; it must not write anything itself. Returns what ends it.
   */
  on(kinds: readonly LoggedKind[], told: Told): () => void {
    const listener = { kinds: new Set(kinds), told };
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Tells of everything that is committed by now; done once everybody was told. Changes without a position get one.
   *
   * @param isPatient whether those are left to whoever made them until the next time, so that two don't do it at once
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

  /** Everything between a position and the one that everybody here was told of. */
  async since(position: number): Promise<readonly LoggedChange[]> {
    if (position >= this.reached) return [];
    const { changes } = await this.after(position);
    const isWhole = followsWhole(changes, position) && changes.length < mostAtOnce;
    return isWhole ? changes : everything(this.reached);
  }

  /** Waits until everybody here was told of everything up to a position; false where that takes too long. */
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

  /** Follows what other processes change from now on. */
  start(): void {
    const later = () => {
      if (!this.isStopped) this.timer = setTimeout(look, pause).unref();
    };
    // Where the database is gone, the next time may find it again.
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

  /** What follows a position, and whether there is something that has no position yet. */
  private async after(position: number): Promise<{ changes: LoggedChange[]; isWaiting: boolean }> {
    const rows = await this.sequelize.query<StoredChange>(
      `SELECT position, kind, entity, entities, revision FROM changes WHERE position > ? OR position IS NULL
       ORDER BY position LIMIT ${mostAtOnce}`,
      { replacements: [position], type: QueryTypes.SELECT },
    );
    const changes = rows.filter((row) => row.position !== null);
    return { changes: changes.map(readChange), isWaiting: changes.length < rows.length };
  }

  /** Removes what is older than anybody who follows can be behind. */
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

/** Whether changes are all that followed a position: of older ones only those of contacts are left. */
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

/** For who was away for longer than changes are kept. */
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

/** Gives positions to all changes that are committed and have none. */
async function givePositions(sequelize: Sequelize): Promise<void> {
  let given: number;
  do given = await amongOthers(() => givePositionsAtOnce(sequelize));
  while (given === mostAtOnce);
}

/** Gives positions in one transaction, one process at a time; how many. */
function givePositionsAtOnce(sequelize: Sequelize): Promise<number> {
  const { READ_COMMITTED } = Transaction.ISOLATION_LEVELS;
  return sequelize.transaction({ isolationLevel: READ_COMMITTED }, async (transaction) => {
    // Others wait here, and read afterwards what this one gave.
    const last = await lastPosition(sequelize, transaction);
    // The servers of a cluster number apart from each other: for one thing its revisions say what came first.
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
