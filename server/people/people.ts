import { LRUCache } from 'lru-cache';
import type { LoggedChange } from '../../contract/changes.ts';
import type { PersonRecord } from '../../contract/people.ts';
import type { Viewer } from '../../core/attributes/viewer.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { Setting } from '../../core/population/population.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { accessOf } from '../store/connection.ts';
import type { Sequelize } from '../store/database.ts';
import { AskedPeople } from './asked-rows.ts';
import { contactsOf, countContacts, haveAccount } from './contact-rows.ts';
import { PeopleThread } from './people-thread.ts';
import type { AsksPeople, Scope } from './questions.ts';
import type { ContactRow } from './rows.ts';
import { SoonestPeople } from './soonest-people.ts';

/** A contact with everything that shows who it is. */
export interface KnownPerson {
  readonly id: number;
  readonly name: string;
  readonly email: string;
  readonly values: { readonly [attribute: string]: unknown };
  readonly hasAccount: boolean;
}

/** What a contact takes up in columns and indexes, an attribute; see docs/performance.md. */
const bytesAValue = 20;
const bytesAContact = 400;
const mostKept = 5000;
/** How often contacts are written down for the next start, in milliseconds; at the end that is done in any case. */
const keptEvery = 6 * 3600 * 1000;

export interface Memory {
  /** Most memory that contacts may take up. */
  readonly megabytes: number;
  /** Where they are kept for the next start; nowhere where it is not given. */
  readonly folder?: string | undefined;
}

/**
 * The contacts: single ones from the database, the latest kept at hand; questions about all of them from columns in a
 * worker thread, or from the database itself where they would take up more memory than is allowed.
 */
export class People {
  /** Whether all contacts are held in memory. */
  readonly held: boolean;
  readonly asks: AsksPeople;
  private readonly kept = new LRUCache<number, KnownPerson>({ max: mostKept });
  /** Grows with every change, so that what was read meanwhile is not kept as the newest. */
  private changes = 0;
  private readonly scopes = new WeakMap<Snapshot['audiences'], Scope>();

  private readonly thread: PeopleThread | undefined;
  private readonly timer: NodeJS.Timeout | undefined;
  private keeping: Promise<unknown> = Promise.resolve();

  private constructor(
    sequelize: Sequelize,
    private readonly atStart: number,
    held: boolean,
    { megabytes, folder }: Memory,
    private readonly log: ChangeLog,
  ) {
    this.held = held;
    const stored = new AskedPeople(sequelize);
    this.thread = held ? new PeopleThread(accessOf(sequelize), megabytes, folder) : undefined;
    this.asks = this.thread ? new SoonestPeople(this.thread, stored, () => this.keep()) : stored;
    if (this.thread && folder) this.timer = setInterval(() => this.keep(), keptEvery).unref();
  }

  static async open(
    sequelize: Sequelize,
    log: ChangeLog,
    attributes: number,
    memory: Memory,
  ): Promise<People> {
    const contacts = await countContacts();
    const bytes = contacts * (bytesAContact + bytesAValue * attributes);
    const people = new People(sequelize, contacts, bytes <= memory.megabytes * 1024 * 1024, memory, log);
    log.on(['contact'], (changes) => people.changed(changes));
    return people;
  }

  /** How far contacts are read into memory, of how many there were at the start; undefined where they are not read. */
  get reading(): { readonly read: number; readonly of: number } | undefined {
    const read = this.thread?.reading;
    return read === undefined ? undefined : { read, of: Math.max(read, this.atStart) };
  }

  /** What questions are asked in; the same for all snapshots that have the same attributes and audiences. */
  scopeOf({ attributes, audiences, settings: { zone } }: Snapshot): Scope {
    let scope = this.scopes.get(audiences);
    if (scope?.attributes !== attributes || scope.zone !== zone) {
      scope = { attributes, audiences, zone };
      this.scopes.set(audiences, scope);
    }
    return scope;
  }

  /** All contacts as they would see a page now, or as they read mail. */
  now(channel: Setting['channel'] = 'page', instant = Date.now()): Setting {
    return { instant, channel };
  }

  async get(id: number): Promise<KnownPerson | undefined> {
    const kept = this.kept.get(id);
    if (kept) return kept;
    const [found] = await this.find([id]);
    return found;
  }

  /** Contacts by their ids, in that order; those that are gone are left out. */
  async find(ids: readonly number[]): Promise<KnownPerson[]> {
    const missing = ids.filter((id) => !this.kept.has(id));
    const found = new Map<number, KnownPerson>();
    const { changes } = this;
    if (missing.length > 0) {
      const [rows, withAccount] = await Promise.all([contactsOf(missing), haveAccount(missing)]);
      for (const row of rows) found.set(row.id, knownPerson(row, withAccount.has(row.id)));
    }
    const people = ids.flatMap((id) => this.kept.get(id) ?? found.get(id) ?? []);
    if (changes === this.changes) for (const person of found.values()) this.kept.set(person.id, person);
    return people;
  }

  /** To be called once the log ended. */
  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.keep();
    await this.keeping;
    await this.asks.stop();
  }

  /** Has everybody written down for the next start. Without it the next start only takes longer. */
  private keep(): void {
    // What the log told of up to here was passed on before this is.
    this.keeping = this.asks.keep(this.log.position).catch(() => undefined);
  }

  private async changed(changes: readonly LoggedChange[]): Promise<void> {
    const ids = changes.some((change) => change.ids === null)
      ? undefined
      : [...new Set(changes.flatMap((change) => change.ids ?? []).map(Number))];
    this.changes++;
    if (ids) for (const id of ids) this.kept.delete(id);
    else this.kept.clear();
    await this.asks.changed(ids);
  }
}

function knownPerson(
  row: Pick<ContactRow, 'id' | 'name' | 'email' | 'values'>,
  hasAccount: boolean,
): KnownPerson {
  return {
    id: row.id,
    name: row.name,
    email: row.email,
    values: { ...row.values, email: row.email },
    hasAccount,
  };
}

export function personRecord({ id, name, email, values, hasAccount }: KnownPerson): PersonRecord {
  return { id, name, email, values, hasAccount };
}

/** A contact as a viewer, without a visit; with a site account signed in. */
export function personAsViewer({ values, hasAccount }: KnownPerson, instant: number): Viewer {
  return { contact: values, signedIn: hasAccount, visit: {}, item: null, instant };
}
