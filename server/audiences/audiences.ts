import { setTimeout as delay } from 'node:timers/promises';
import type { z } from 'zod';
import type {
  AudienceVersion,
  audienceChangeSchema,
  audienceDraftSchema,
  ListedAudience,
  StoredAudience,
  Use,
} from '../../contract/audiences.ts';
import { type Audience, findCircle } from '../../core/audiences/audience.ts';
import { audiencesIn } from '../../core/conditions/condition.ts';
import { audiencesOfMenu } from '../../core/deciding/menu.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { audiencesOfDocument } from '../../core/documents/uses.ts';
import { newId } from '../ids.ts';
import type { People } from '../people/people.ts';
import type { Scope } from '../people/questions.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { brokenExamples } from './broken-examples.ts';
import {
  type AudienceRow,
  audienceCalled,
  audienceRow,
  audiencesInTurn,
  insertAudience,
  removeAudience,
  setBesideRevisions,
  stored,
  updateAudience,
  versionsOf,
} from './rows.ts';
import type { StoredAudiences } from './stored-audiences.ts';

type Draft = z.infer<typeof audienceDraftSchema>;

interface AllCounts {
  readonly countOf: ReadonlyMap<string, number>;
  readonly live: ReadonlyMap<string, number>;
}

/** How long a list waits for its counts, in milliseconds. */
const longestWait = 1000;

const notCounted: AllCounts = { countOf: new Map(), live: new Map() };

export class Audiences {
  /** Whether counting takes longer than lists wait for it. */
  private isBehind = false;
  private latest: (AllCounts & { readonly scope: Scope }) | undefined;

  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
    private readonly kept: StoredAudiences,
  ) {}

  async list(): Promise<ListedAudience[]> {
    const decider = await this.drafts.decider();
    const { snapshot, membership } = decider;
    const ids = snapshot.audiences.map((audience) => audience.id);
    const [rows, { countOf, live }] = await Promise.all([this.kept.all(), this.countsSoon(snapshot, ids)]);
    const broken = await brokenExamples(rows, decider, this.people, Date.now());
    return rows.map((row) => ({
      ...row,
      count: countOf.get(row.id) ?? null,
      liveCount: live.get(row.id) ?? null,
      uses: usesOf(row.id, snapshot),
      problems: [...(membership.problems.get(row.id) ?? [])],
      brokenExamples: broken.filter(({ audience }) => audience === row.id).length,
    }));
  }

  /**
   * The counts, if they come soon. Where they don't, as in a database with millions of contacts, those of the last time,
   * and nobody counts again until that is finished.
   */
  private async countsSoon(snapshot: Snapshot, ids: readonly string[]): Promise<AllCounts> {
    const scope = this.people.scopeOf(snapshot);
    const known = this.latest?.scope === scope ? this.latest : notCounted;
    if (this.isBehind) return known;
    const counting = this.counting(snapshot, ids).then((counts) => {
      this.latest = { scope, ...counts };
      return counts;
    });
    const counts = await Promise.race([counting, delay(longestWait, undefined, { ref: false })]);
    if (counts) return counts;
    this.isBehind = true;
    const isDone = () => {
      this.isBehind = false;
    };
    counting.then(isDone, isDone);
    return known;
  }

  /** How many are in each audience as it is drafted, and as it was released. */
  private async counting(snapshot: Snapshot, ids: readonly string[]): Promise<AllCounts> {
    const counts = await this.people.asks.count(
      this.people.scopeOf(snapshot),
      this.people.now(),
      ids.map((audience) => ({ kind: 'audience', audience })),
    );
    return {
      countOf: new Map(ids.map((id, index) => [id, counts[index] ?? 0])),
      live: await this.liveCounts(),
    };
  }

  /** How many are in each audience as it was released. */
  private async liveCounts(): Promise<Map<string, number>> {
    const snapshot = this.live.current?.snapshot;
    if (!snapshot) return new Map();
    const counts = await this.people.asks.count(
      this.people.scopeOf(snapshot),
      this.people.now(),
      snapshot.audiences.map(({ id }) => ({ kind: 'audience', audience: id })),
    );
    return new Map(snapshot.audiences.map(({ id }, index) => [id, counts[index] ?? 0]));
  }

  async create(draft: Draft, accountName: string): Promise<StoredAudience> {
    const row = await inTransaction(async (transaction) => {
      const id = newId();
      refuseCircle({ ...draft, id }, await audiencesInTurn(transaction));
      await refuseTakenName(draft.name, id, transaction);
      return insertAudience({ id, ...draft, ownerName: accountName, accountName }, transaction);
    });
    return stored(row);
  }

  async change(
    id: string,
    change: z.infer<typeof audienceChangeSchema>,
    accountName: string,
  ): Promise<StoredAudience> {
    const { revision, ...draft } = change;
    const saved = await inTransaction(async (transaction) => {
      const all = await audiencesInTurn(transaction);
      const row = all.find((one) => one.id === id);
      if (!row) throw notFound('audience');
      if (row.revision !== revision)
        throw new Refusal(
          409,
          'Someone saved this audience after you opened it. Your version is kept on this screen; theirs is stored.',
          { current: stored(row) },
        );
      refuseCircle({ ...draft, id }, all);
      await refuseTakenName(draft.name, id, transaction);
      return updateAudience(row, { ...draft, accountName }, transaction);
    });
    return stored(saved);
  }

  async remove(id: string): Promise<void> {
    const snapshot = await this.drafts.snapshot();
    const uses = usesOf(id, snapshot);
    if (uses.length > 0)
      throw new Refusal(
        409,
        `This audience is in use by ${uses.map((use) => `${use.what} “${use.name}”`).join(', ')}. Remove it there first, then delete it.`,
        { current: uses },
      );
    if (!(await removeAudience(id))) throw notFound('audience');
  }

  /** Puts an audience away, or back. Refused where it is in use. */
  async archive(id: string, archived: boolean): Promise<StoredAudience> {
    const row = await audienceRow(id);
    if (!row) throw notFound('audience');
    const uses = usesOf(id, await this.drafts.snapshot());
    if (archived && uses.length > 0)
      throw new Refusal(
        409,
        `This audience is in use by ${uses.map((use) => `${use.what} “${use.name}”`).join(', ')}. Remove it there first, then archive it.`,
        { current: uses },
      );
    const archivedAt = archived ? new Date() : null;
    return stored(await setBesideRevisions(row, { archivedAt }));
  }

  async giveTo(id: string, ownerName: string): Promise<StoredAudience> {
    const row = await audienceRow(id);
    if (!row) throw notFound('audience');
    return stored(await setBesideRevisions(row, { ownerName }));
  }

  /** How an audience was each time it was stored, the latest first. */
  async versions(id: string): Promise<AudienceVersion[]> {
    return (await versionsOf(id)).map(({ id: version, at, accountName, name, description, condition }) => ({
      id: version,
      at: at.toISOString(),
      accountName,
      name,
      description,
      condition,
    }));
  }
}

const usesKnown = new WeakMap<Snapshot, ReadonlyMap<string, Use[]>>();

/** Where an audience is used; found for all audiences of a snapshot at once, and once. */
export function usesOf(id: string, snapshot: Snapshot): Use[] {
  let uses = usesKnown.get(snapshot);
  if (!uses) {
    uses = usesIn(snapshot);
    usesKnown.set(snapshot, uses);
  }
  return uses.get(id) ?? [];
}

function usesIn(snapshot: Snapshot): ReadonlyMap<string, Use[]> {
  const uses = new Map<string, Use[]>();
  const add = (audiences: Iterable<string>, use: Use) => {
    for (const audience of new Set(audiences)) {
      const known = uses.get(audience);
      if (known) known.push(use);
      else uses.set(audience, [use]);
    }
  };
  const { documents, audiences, collections = [], items = [], settings } = snapshot;
  for (const document of documents)
    add(audiencesOfDocument(document), { what: document.kind, id: document.id, name: document.name });
  for (const { id, name, condition } of audiences)
    add(
      [...audiencesIn(condition)].filter((other) => other !== id),
      { what: 'audience', id, name },
    );
  for (const { id, name, access } of collections)
    add(access === null ? [] : [access], { what: 'collection', id, name });
  for (const { id, title, access, listed } of items)
    add(
      [access, listed?.audience].filter((audience) => typeof audience === 'string'),
      { what: 'item', id, name: title },
    );
  add(audiencesOfMenu(settings), { what: 'menu', id: 'menu', name: 'the site’s menu' });
  return uses;
}

/** Refuses a name that is taken as the database compares them, which is what it keeps unique. */
async function refuseTakenName(name: string, except: string, transaction: Transaction): Promise<void> {
  const taken = await audienceCalled(name, except, transaction);
  if (taken)
    throw new Refusal(422, `There is an audience called “${taken.name}” already. Choose another name.`, {
      fields: [{ path: 'name', message: 'is taken' }],
    });
}

/** Refuses an audience that would build on itself through others. */
function refuseCircle(
  edited: Pick<Audience, 'id' | 'name' | 'condition'>,
  all: readonly AudienceRow[],
): void {
  const whole = [...all.filter(({ id }) => id !== edited.id), edited];
  const circle = findCircle(whole);
  if (!circle) return;
  const names = circle.map((id) => `“${whole.find((audience) => audience.id === id)?.name ?? id}”`);
  throw new Refusal(
    422,
    `These audiences build on each other in a circle: ${names.join(' → ')}. Remove one of them.`,
  );
}
