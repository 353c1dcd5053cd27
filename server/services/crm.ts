import { setTimeout as wait } from 'node:timers/promises';
import type { RowDataPacket } from 'mysql2/promise';
import type { Sequelize } from 'sequelize';
import type { z } from 'zod';
import {
  type CrmResult,
  type CrmSettings,
  type CrmStatus,
  crmFieldsSchema,
  crmPageSchema,
  crmResultSchema,
  crmSettingsSchema,
} from '../../contract/crm.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import type { Fields } from '../../core/exchange/merge.ts';
import { attributesOf, mergeSynced, readSynced, type Synced } from '../../core/exchange/synced.ts';
import { type Outside, RefusedAddress } from '../outside.ts';
import { Refusal } from '../refusal.ts';
import { type CrmStandIn, crmKey } from '../standins/crm.ts';
import { onOwnConnection } from '../store/connection.ts';
import { addContacts, changeContacts, storedContacts, type Write } from '../store/contact-writes.ts';
import { SettingRow } from '../store/models.ts';
import type { Drafts } from './drafts.ts';
import type { People } from './people.ts';

const settingsKey = 'crm';
const stateKey = 'crm-state';
const mostTries = 6;
const patience = 10_000;
const longest = 20_000_000;
const reasonsShown = 20;
const minute = 60_000;

/** How far the sync has come; stored together with each page, so that it goes on where it was. */
interface State {
  /** Their changes up to this moment are here; null until all of them were read once. */
  upTo: string | null;
  /** Where in the pages it is; null between two syncs. */
  cursor: string | null;
  /** When the sync that is in the middle began: what changes over there meanwhile belongs to the next. */
  startedAt: string | null;
  result: CrmResult | null;
}

const nothing: State = { upTo: null, cursor: null, startedAt: null, result: null };
const sync = { source: 'sync' as const, accountName: '', importId: null };

/**
 * Keeps contacts in step with a customer database outside, page by page: each page is stored in one short transaction
 * together with how far it has come. A service that is slow, fails or asks for patience is waited for.
 */
export class Crm {
  private running: { stopping: AbortController; result: CrmResult; ended: Promise<void> } | undefined;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly sequelize: Sequelize,
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly standIn: CrmStandIn | undefined,
    private readonly standInAddress: string,
    private readonly outside: Outside,
    /** Milliseconds that the first wait takes; each next one twice as long. */
    private readonly firstWait = 1000,
  ) {}

  /** Begins to look, once a minute, whether it is time for a sync. */
  start(): void {
    this.timer = setInterval(() => void this.syncWhenDue().catch(() => {}), minute);
    this.timer.unref();
  }

  async status(): Promise<CrmStatus> {
    // Looked at first: what runs no more has stored its result before.
    const { running } = this;
    const state = await this.state();
    return {
      settings: await this.settings(),
      running: running !== undefined,
      result: running?.result ?? state.result,
      upTo: state.upTo,
      standIn: this.standIn
        ? { address: this.standInAddress, key: crmKey, switches: this.standIn.switches }
        : null,
    };
  }

  async configure(settings: CrmSettings): Promise<CrmStatus> {
    if (this.running) throw new Refusal(409, 'A sync is running; stop it first, or wait for its end.');
    const before = await this.settings();
    await SettingRow.upsert({ key: settingsKey, value: settings });
    // Another source, or other fields of it, is read from its beginning.
    const sameSource =
      before.address === settings.address &&
      JSON.stringify(before.fields) === JSON.stringify(settings.fields);
    if (!sameSource) await this.store({ ...(await this.state()), upTo: null, cursor: null, startedAt: null });
    return this.status();
  }

  /** The names of their fields, to be matched with attributes. */
  async fields(): Promise<z.infer<typeof crmFieldsSchema>> {
    const settings = await this.settings();
    try {
      return crmFieldsSchema.parse(
        await this.ask(settings, '/fields', new AbortController().signal, () => {}),
      );
    } catch (error) {
      throw new Refusal(422, `Their fields can’t be read: ${wordsFor(error)}`);
    }
  }

  /** Begins a sync; refused while one runs. */
  async sync(): Promise<CrmStatus> {
    if (this.running) throw new Refusal(409, 'A sync is running already.');
    const settings = await this.settings();
    const stopping = new AbortController();
    const result = emptyResult();
    const running = { stopping, result, ended: Promise.resolve() };
    this.running = running;
    running.ended = this.work(settings, result, stopping.signal)
      .catch((error: unknown) => {
        result.error = stopping.signal.aborted
          ? 'Stopped. It goes on from here the next time.'
          : `${wordsFor(error)} It goes on from here the next time.`;
      })
      .then(async () => {
        result.finishedAt = new Date().toISOString();
        await this.store({ ...(await this.state()), result });
      })
      .catch(() => {})
      .finally(() => {
        this.running = undefined;
      });
    return this.status();
  }

  async cancel(): Promise<CrmStatus> {
    this.running?.stopping.abort();
    await this.running?.ended;
    return this.status();
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.running?.stopping.abort();
    await this.running?.ended;
  }

  private async syncWhenDue(): Promise<void> {
    const { everyMinutes } = await this.settings();
    if (everyMinutes === null || this.running) return;
    const last = (await this.state()).result?.finishedAt;
    if (!last || Date.now() - Date.parse(last) >= everyMinutes * minute) await this.sync();
  }

  private async work(settings: CrmSettings, result: CrmResult, signal: AbortSignal): Promise<void> {
    let state = await this.state();
    if (state.startedAt === null) state = { ...state, startedAt: new Date().toISOString(), cursor: null };
    for (;;) {
      const query = new URLSearchParams({
        ...(state.cursor !== null && { cursor: state.cursor }),
        ...(state.upTo !== null && { since: state.upTo }),
      });
      const answer = await this.ask(settings, `/contacts?${query}`, signal, () => result.retries++);
      const page = crmPageSchema.parse(answer);
      const next: State =
        page.next === null
          ? { upTo: state.startedAt, cursor: null, startedAt: null, result }
          : { ...state, cursor: page.next };
      const ids = await this.storePage(page.contacts, settings, result, state.upTo, next);
      state = next;
      result.pages++;
      if (ids.length > 0) await this.people.changed(ids);
      if (page.next === null) return;
      signal.throwIfAborted();
    }
  }

  /** Stores one page and how far it has come, or neither. */
  private async storePage(
    records: readonly unknown[],
    settings: CrmSettings,
    result: CrmResult,
    upTo: string | null,
    next: State,
  ): Promise<number[]> {
    const { catalogue } = await this.drafts.decider();
    const told = { added: 0, changed: 0, unchanged: 0, kept: 0, skipped: 0 };
    const reasons: CrmResult['reasons'] = [];
    const skip = (id: string, reason: string) => {
      told.skipped++;
      reasons.push({ id, reason });
    };
    const read = new Map<string, Synced>();
    const addresses = new Set<string>();
    for (const record of records) {
      const synced = readSynced(record, settings.fields, (id) => catalogue.get(id));
      if ('reason' in synced) {
        skip(synced.id, synced.reason);
        continue;
      }
      const { externalId, email = '' } = synced.incoming;
      if (read.has(externalId)) skip(externalId, 'is there twice');
      else if (addresses.has(addressKey(email))) skip(externalId, 'has the address of another record');
      else read.set(externalId, synced);
      addresses.add(addressKey(email));
    }
    const ids = await onOwnConnection(this.sequelize, async (connection) => {
      const { byAddress, byId } = await storedContacts(connection, [...addresses], [...read.keys()], true);
      const known = [
        ...new Map([...byAddress.values(), ...byId.values()].map((one) => [one.id, one])).keys(),
      ];
      const here = new Map<number, Map<string, number>>();
      if (known.length > 0 && upTo !== null) {
        const [changes] = await connection.query<RowDataPacket[]>(
          "SELECT contactId, at, fields FROM contact_changes WHERE contactId IN (?) AND source = 'person' AND at > ? ORDER BY id",
          [known, new Date(upTo)],
        );
        for (const { contactId, at, fields } of changes) {
          const of = here.get(contactId) ?? new Map<string, number>();
          const changed: Fields = typeof fields === 'string' ? JSON.parse(fields) : fields;
          for (const attribute of attributesOf(changed)) of.set(attribute, new Date(at).getTime());
          here.set(contactId, of);
        }
      }
      const added: Write[] = [];
      const changed: (Write & { id: number })[] = [];
      for (const [externalId, synced] of read) {
        const address = byAddress.get(addressKey(synced.incoming.email ?? ''));
        const record = byId.get(externalId);
        const changedHere = here.get((record ?? address)?.id ?? 0) ?? new Map<string, number>();
        const { merged, stored, kept } = mergeSynced(synced, address, record, changedHere, settings.conflict);
        if (merged.kind === 'rejected') {
          skip(externalId, merged.reason);
          continue;
        }
        told.kept += kept.length;
        told[merged.kind]++;
        if (merged.kind === 'unchanged') continue;
        const { person, fields } = merged;
        if (stored) changed.push({ id: stored.id, person, fields });
        else added.push({ person, fields });
      }
      const made = await addContacts(connection, added, sync);
      await changeContacts(connection, changed, sync);
      await connection.query(
        'INSERT INTO settings (`key`, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)',
        [stateKey, JSON.stringify(next)],
      );
      return [...made, ...changed.map(({ id }) => id)];
    });
    for (const key of Object.keys(told) as (keyof typeof told)[]) result[key] += told[key];
    result.reasons = [...result.reasons, ...reasons].slice(0, reasonsShown);
    return ids;
  }

  /** Asks for something, with patience: waits as long as it is told to, or longer each time. */
  private async ask(
    { address, key }: CrmSettings,
    path: string,
    signal: AbortSignal,
    waited: () => void,
  ): Promise<unknown> {
    for (let tries = 1; ; tries++) {
      signal.throwIfAborted();
      const tried = await this.outside
        .get(`${address.replace(/\/$/, '')}${path}`, {
          headers: { authorization: `Bearer ${key}` },
          signal,
          patience,
          longest,
        })
        .catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
      if (tried instanceof RefusedAddress) throw tried;
      if (!(tried instanceof Error) && tried.status === 200) return JSON.parse(tried.text);
      signal.throwIfAborted();
      if (!(tried instanceof Error) && tried.status < 500 && tried.status !== 429)
        throw new Error(
          tried.status === 401 ? 'The key is refused.' : `Their service answers ${tried.status}.`,
        );
      if (tries >= mostTries)
        throw new Error(
          tried instanceof Error
            ? `Their service can’t be reached. ${tried.message}`
            : `Their service answered ${tried.status} ${mostTries} times.`,
        );
      const asked = tried instanceof Error ? 0 : Number(tried.headers['retry-after']) * 1000;
      waited();
      await wait(asked > 0 ? Math.min(asked, minute) : this.firstWait * 2 ** (tries - 1), undefined, {
        signal,
      });
    }
  }

  private async settings(): Promise<CrmSettings> {
    const stored = crmSettingsSchema.safeParse((await SettingRow.findByPk(settingsKey))?.value);
    if (stored.success) return stored.data;
    return {
      address: this.standInAddress,
      key: this.standIn ? crmKey : '',
      fields: { given_name: 'first-name', family_name: 'last-name', stage: 'stage', lists: 'lists' },
      conflict: 'newer',
      everyMinutes: null,
    };
  }

  private async state(): Promise<State> {
    const value = (await SettingRow.findByPk(stateKey))?.value as Partial<State> | undefined;
    const result = crmResultSchema.safeParse(value?.result);
    return { ...nothing, ...value, result: result.success ? result.data : null };
  }

  private async store(state: State): Promise<void> {
    await SettingRow.upsert({ key: stateKey, value: state });
  }
}

function emptyResult(): CrmResult {
  return {
    startedAt: new Date().toISOString(),
    finishedAt: null,
    pages: 0,
    added: 0,
    changed: 0,
    unchanged: 0,
    kept: 0,
    skipped: 0,
    reasons: [],
    retries: 0,
    error: null,
  };
}

function wordsFor(error: unknown): string {
  if (error instanceof Error && error.name === 'ZodError')
    return 'Their service answers in a form that is not known.';
  return error instanceof Error ? error.message : String(error);
}
