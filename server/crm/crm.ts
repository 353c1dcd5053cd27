import { setTimeout as wait } from 'node:timers/promises';
import { z } from 'zod';
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
import { attributesOf, mergeSynced, readSynced, type Synced } from '../../core/exchange/synced.ts';
import { type Outside, RefusedAddress } from '../http/outside.ts';
import {
  addContacts,
  changeContacts,
  changesByHand,
  storedContacts,
  type Write,
} from '../people/bulk-rows.ts';
import { Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import { type CrmStandIn, crmKey } from '../standins/crm.ts';
import { onOwnConnection } from '../store/connection.ts';
import type { Sequelize } from '../store/database.ts';
import { settingOf, storeSetting, storeSettingOn } from '../store/rows.ts';
import { inTransaction } from '../store/transaction.ts';
import { Interrupted } from '../work/hold.ts';
import { holdOn } from '../work/hold-rows.ts';
import { Hopeless, type JobQueue, type RunningJob } from '../work/queue.ts';

const settingsKey = 'crm';
const stateKey = 'crm-state';
const syncJob = 'crm-sync';
const lookJob = 'crm-look';
const syncing = { kind: syncJob, title: 'CRM sync', payload: null, key: syncJob };
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
  /** The job that the result is of. */
  job: number | null;
}

const nothing: State = { upTo: null, cursor: null, startedAt: null, result: null, job: null };
const sync = { source: 'sync' as const, accountName: '', importId: null };

/**
 * Keeps contacts in step with a customer database outside, page by page: each page is stored in one short transaction
 * together with how far it has come. A service that is slow, fails or asks for patience is waited for.
 */
export class Crm {
  constructor(
    private readonly sequelize: Sequelize,
    private readonly queue: JobQueue,
    private readonly drafts: Drafts,
    private readonly standIn: CrmStandIn | undefined,
    private readonly standInAddress: string,
    private readonly outside: Outside,
    /** Milliseconds that the first wait takes; each next one twice as long. */
    private readonly firstWait = 1000,
  ) {
    const payload = z.null();
    queue.handle({ kind: syncJob, payload, tries: 3, run: (job) => this.run(job) });
    queue.handle({ kind: lookJob, payload, tries: 1, run: () => this.syncWhenDue() });
  }

  /** Has it looked once a minute, by one of all servers, whether it is time for a sync. */
  async start(): Promise<void> {
    const title = 'Check whether a CRM sync is due';
    await this.queue.add({ kind: lookJob, title, payload: null, key: lookJob, every: 60 });
  }

  async status(): Promise<CrmStatus> {
    // Looked at first: what runs no more has stored its result before.
    const running = (await this.queue.active(syncJob)) !== undefined;
    const { result, upTo } = await this.state();
    return {
      settings: await this.settings(),
      running,
      result,
      upTo,
      standIn: this.standIn
        ? { address: this.standInAddress, key: crmKey, switches: this.standIn.switches }
        : null,
    };
  }

  async configure(settings: CrmSettings): Promise<CrmStatus> {
    if (await this.queue.active(syncJob))
      throw new Refusal(409, 'A sync is running; stop it first, or wait for its end.');
    const before = await this.settings();
    await inTransaction((transaction) => storeSetting(settingsKey, settings, transaction));
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
      throw new Refusal(422, `The CRM’s fields can’t be read: ${wordsFor(error)}`);
    }
  }

  /** Begins a sync; refused while one runs. */
  async sync(accountName: string): Promise<CrmStatus> {
    if (await this.queue.active(syncJob)) throw new Refusal(409, 'A sync is running already.');
    await this.queue.add({ ...syncing, accountName });
    return this.status();
  }

  async cancel(): Promise<CrmStatus> {
    await this.queue.stopActive(syncJob);
    return this.status();
  }

  private async syncWhenDue(): Promise<void> {
    const { everyMinutes } = await this.settings();
    if (everyMinutes === null) return;
    const last = (await this.state()).result?.finishedAt;
    if (!last || Date.now() - Date.parse(last) >= everyMinutes * minute) await this.queue.add(syncing);
  }

  /** Reads page after page, from where the last sync, or the last process with this one, had come to. */
  private async run(job: RunningJob<null>): Promise<CrmResult> {
    const settings = await this.settings();
    const before = await this.state();
    const done = before.job === job.id ? before.result : null;
    const result = done ? { ...done, error: null } : emptyResult();
    try {
      await this.readPages(settings, before, result, job);
    } catch (error) {
      if (job.signal.reason instanceof Interrupted && job.signal.reason.why !== 'stopping') throw error;
      result.error = job.signal.aborted
        ? 'Stopped. It goes on from here the next time.'
        : `${wordsFor(error)} It goes on from here the next time.`;
      result.finishedAt = new Date().toISOString();
      await this.store({ ...(await this.state()), result, job: job.id });
      throw job.signal.aborted ? error : new Hopeless(wordsFor(error));
    }
    return result;
  }

  private async readPages(
    settings: CrmSettings,
    before: State,
    result: CrmResult,
    job: RunningJob<null>,
  ): Promise<void> {
    let state = before;
    if (state.startedAt === null) state = { ...state, startedAt: new Date().toISOString(), cursor: null };
    for (;;) {
      const query = new URLSearchParams({
        ...(state.cursor !== null && { cursor: state.cursor }),
        ...(state.upTo !== null && { since: state.upTo }),
      });
      const answer = await this.ask(settings, `/contacts?${query}`, job.signal, () => result.retries++);
      const page = crmPageSchema.parse(answer);
      result.pages++;
      if (page.next === null) result.finishedAt = new Date().toISOString();
      const next: State =
        page.next === null
          ? { upTo: state.startedAt, cursor: null, startedAt: null, result, job: job.id }
          : { ...state, cursor: page.next, job: job.id };
      await this.storePage(page.contacts, settings, result, state.upTo, next, job);
      state = next;
      if (page.next === null) return;
      job.signal.throwIfAborted();
    }
  }

  /** Stores one page and how far it has come, or neither. */
  private async storePage(
    records: readonly unknown[],
    settings: CrmSettings,
    result: CrmResult,
    upTo: string | null,
    next: State,
    job: RunningJob<null>,
  ): Promise<void> {
    const { catalogue } = await this.drafts.decider();
    const counts = { added: 0, changed: 0, unchanged: 0, kept: 0, skipped: 0 };
    const reasons: CrmResult['reasons'] = [];
    const skip = (id: string, reason: string) => {
      counts.skipped++;
      reasons.push({ id, reason });
    };
    const after = { ...result };
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
    await onOwnConnection(this.sequelize, async (connection, changes) => {
      const { byAddress, byId } = await storedContacts(connection, [...addresses], [...read.keys()], true);
      const known = [
        ...new Map([...byAddress.values(), ...byId.values()].map((one) => [one.id, one])).keys(),
      ];
      const here = new Map<number, Map<string, number>>();
      if (upTo !== null)
        for (const { contactId, at, fields } of await changesByHand(connection, known, new Date(upTo))) {
          const of = here.get(contactId) ?? new Map<string, number>();
          for (const attribute of attributesOf(fields)) of.set(attribute, at.getTime());
          here.set(contactId, of);
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
        counts.kept += kept.length;
        counts[merged.kind]++;
        if (merged.kind === 'unchanged') continue;
        const { person, fields } = merged;
        if (stored) changed.push({ id: stored.id, person, fields });
        else added.push({ person, fields });
      }
      await addContacts(connection, added, sync, changes);
      await changeContacts(connection, changed, sync, changes);
      for (const key of Object.keys(counts) as (keyof typeof counts)[]) after[key] += counts[key];
      after.reasons = [...after.reasons, ...reasons].slice(0, reasonsShown);
      await holdOn(connection, job.hold, null);
      await storeSettingOn(connection, stateKey, { ...next, result: after }, changes);
    });
    Object.assign(result, after);
  }

  /** Sends a request, with retries: waits as long as it is asked to, or longer each time. */
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
        throw new Error(tried.status === 401 ? 'The key is refused.' : `The CRM answers ${tried.status}.`);
      if (tries >= mostTries)
        throw new Error(
          tried instanceof Error
            ? `The CRM can’t be reached. ${tried.message}`
            : `The CRM answered ${tried.status} ${mostTries} times.`,
        );
      const asked = tried instanceof Error ? 0 : Number(tried.headers['retry-after']) * 1000;
      waited();
      await wait(asked > 0 ? Math.min(asked, minute) : this.firstWait * 2 ** (tries - 1), undefined, {
        signal,
      });
    }
  }

  private async settings(): Promise<CrmSettings> {
    const stored = crmSettingsSchema.safeParse(await settingOf(settingsKey));
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
    const value = (await settingOf(stateKey)) as Partial<State> | undefined;
    const result = crmResultSchema.safeParse(value?.result);
    return { ...nothing, ...value, result: result.success ? result.data : null };
  }

  private async store(state: State): Promise<void> {
    await inTransaction((transaction) => storeSetting(stateKey, state, transaction));
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
    return 'The CRM answers in a form that is not known.';
  return error instanceof Error ? error.message : String(error);
}
