import type { z } from 'zod';
import type {
  AudienceVersion,
  audienceChangeSchema,
  audienceDraftSchema,
  Comparison,
  Count,
  Counts,
  ListedAudience,
  OverTime,
  StoredAudience,
  Use,
} from '../../contract/audiences.ts';
import { aboutToday, type TodayFinding } from '../../core/analysis/today.ts';
import { instantOf, isoDate, localDay, localTime } from '../../core/attributes/calendar.ts';
import { type Audience, findCircle } from '../../core/audiences/audience.ts';
import { attributesIn, audiencesIn, type Condition } from '../../core/conditions/condition.ts';
import { validate } from '../../core/conditions/validate.ts';
import { withoutGaps } from '../../core/conditions/without-gaps.ts';
import { Membership } from '../../core/deciding/membership.ts';
import { audiencesOfMenu } from '../../core/deciding/menu.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { Channel } from '../../core/documents/document.ts';
import { audiencesOfDocument } from '../../core/documents/uses.ts';
import { newId } from '../ids.ts';
import type { People } from '../people/people.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { brokenExamples } from './broken-examples.ts';
import {
  type AudienceRow,
  audienceCalled,
  audienceRow,
  audiencesByName,
  audiencesInTurn,
  insertAudience,
  removeAudience,
  setBesideRevisions,
  updateAudience,
  versionsOf,
} from './rows.ts';

type Draft = z.infer<typeof audienceDraftSchema>;
const daysAhead = 30;
const crossingShown = 20;
/** Most parts of one condition that are counted each by itself. */
const mostParts = 200;

export class Audiences {
  constructor(
    private readonly people: People,
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
  ) {}

  async list(): Promise<ListedAudience[]> {
    const decider = await this.drafts.decider();
    const { snapshot, membership } = decider;
    const ids = snapshot.audiences.map((audience) => audience.id);
    const counts = await this.people.asks.count(
      this.people.scopeOf(snapshot),
      this.people.now(),
      ids.map((audience) => ({ kind: 'audience', audience })),
    );
    const countOf = new Map(ids.map((id, index) => [id, counts[index]]));
    const live = await this.liveCounts();
    const broken = await brokenExamples(decider, this.people, Date.now());
    const rows = await audiencesByName();
    return rows.map((row) => ({
      ...stored(row),
      count: countOf.get(row.id) ?? 0,
      liveCount: live.get(row.id) ?? null,
      uses: usesOf(row.id, snapshot),
      problems: [...(membership.problems.get(row.id) ?? [])],
      brokenExamples: broken.filter(({ audience }) => audience === row.id).length,
    }));
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
          'Somebody saved this audience after you opened it. Your version is kept on this screen; theirs is stored.',
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
        `This audience is in use by ${uses.map((use) => `${use.what} “${use.name}”`).join(', ')}. Take it out there first, then delete it.`,
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
        `This audience is in use by ${uses.map((use) => `${use.what} “${use.name}”`).join(', ')}. Take it out there first, then put it away.`,
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

  /** Who comes into a condition and who leaves it in the days to come, through time alone. */
  async overTime(condition: Condition, editing: string | null): Promise<OverTime> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const id = editing ?? newId();
    const edited: Audience = { id, name: 'this audience', description: '', condition };
    const audiences = [...snapshot.audiences.filter((audience) => audience.id !== id), edited];
    if (new Membership(catalogue, audiences).problems.has(id)) return { days: [] };
    const { zone } = snapshot.settings;
    const now = Date.now();
    const today = localDay(now, zone);
    const { minute } = localTime(now, zone);
    // The same time of each day, so that a day more or less is all that differs.
    const days = Array.from({ length: daysAhead + 1 }, (_, ahead) => today + ahead);
    const steps = await this.people.asks.changes(
      this.people.scopeOf(snapshot),
      days.map((day) => ({ instant: instantOf({ day, minute }, zone), channel: 'page' })),
      condition,
      crossingShown,
    );
    const people = await this.people.find([
      ...new Set(steps.flatMap(({ entering, leaving }) => [...entering.ids, ...leaving.ids])),
    ]);
    const names = new Map(people.map(({ id: person, name }) => [person, name]));
    const named = (ids: readonly number[]) =>
      ids.map((person) => ({ id: person, name: names.get(person) ?? '' }));
    return {
      days: steps.map(({ count, entering, leaving }, index) => ({
        date: isoDate(days[index] ?? 0),
        count,
        entering: entering.count,
        leaving: leaving.count,
        comers: named(entering.ids),
        leavers: named(leaving.ids),
      })),
    };
  }

  /** Who is in a condition, saved or not. A condition with problems counts nobody and says why. */
  async count(condition: Condition, editing: string | null): Promise<Count> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const { asks } = this.people;
    const id = editing ?? newId();
    const edited: Audience = { id, name: 'this audience', description: '', condition };
    const audiences = [...snapshot.audiences.filter((audience) => audience.id !== id), edited];
    const membership = new Membership(catalogue, audiences);
    const problems = [...(membership.problems.get(id) ?? [])];
    const scope = this.people.scopeOf(snapshot);
    const asked: Condition = problems.length > 0 ? { kind: 'any', of: [] } : condition;
    const tested = [...attributesIn(condition)].filter((one) => catalogue.get(one)?.source === 'contact');
    const now = this.people.now();
    const parts = problems.length > 0 ? [] : [...partsOf(condition)].slice(0, mostParts);
    const onlyLacking: Condition = {
      kind: 'all',
      of: [withoutGaps(asked, (id) => catalogue.get(id)?.source === 'contact'), { kind: 'not', of: asked }],
    };
    const others = snapshot.audiences.filter((one) => one.id !== id && !membership.problems.has(one.id));
    const names = new Map(snapshot.audiences.map((audience) => [audience.id, audience.name]));
    // Beside a condition that counts nobody, or everybody, there is nothing to say of today.
    const isGroup = condition.kind === 'all' || condition.kind === 'any';
    const today =
      problems.length > 0 || (isGroup && condition.of.length === 0)
        ? undefined
        : aboutToday(condition, others, { catalogue, audience: (one) => names.get(one) });
    const [[count = 0, leftOut = 0, ...passing], lacking, total, todays] = await Promise.all([
      asks.count(scope, now, [asked, onlyLacking, ...parts.map(({ part }) => part)]),
      asks.lacking(scope, tested),
      asks.total(),
      today && this.people.held ? asks.count(scope, now, today.conditions) : [],
    ]);
    return {
      count,
      total,
      problems,
      lacking: tested
        .map((attribute, index) => ({ attribute, count: lacking[index] ?? 0 }))
        .filter(({ count }) => count > 0),
      leftOut,
      parts: parts.map(({ path }, index) => ({ path, count: passing[index] ?? 0 })),
      today: todays.length === 0 ? [] : (today?.read(todays) ?? []).map(shown),
    };
  }

  /** How many are in each of some conditions; one with a problem counts nobody. */
  async counts(conditions: readonly Condition[], channel: Channel): Promise<Counts> {
    const { snapshot, catalogue } = await this.drafts.decider();
    const ids = new Set(snapshot.audiences.map(({ id }) => id));
    const sound = conditions.map((condition): Condition => {
      const problems = validate(condition, { catalogue, hasAudience: (id) => ids.has(id) });
      return problems.length > 0 ? { kind: 'any', of: [] } : condition;
    });
    const { asks } = this.people;
    const [counts, total] = await Promise.all([
      asks.count(this.people.scopeOf(snapshot), this.people.now(channel), sound),
      asks.total(),
    ]);
    return { counts, total };
  }

  /** How some audiences share contacts. */
  async compare(ids: readonly string[]): Promise<Comparison> {
    const { snapshot } = await this.drafts.decider();
    for (const id of ids)
      if (!snapshot.audiences.some((audience) => audience.id === id)) throw notFound('audience');
    const scope = this.people.scopeOf(snapshot);
    const now = this.people.now();
    // A slot for each audience: its faces are the combinations.
    const body = ids.map((audience, index) => ({
      kind: 'slot' as const,
      id: `s${index}`,
      name: audience,
      variants: [{ id: `v${index}`, audience, content: [] }],
      otherwise: [],
    }));
    const [faces, sizes, total] = await Promise.all([
      this.people.asks.faces(scope, now, { subject: [], preview: [], body }),
      this.people.asks.count(
        scope,
        now,
        ids.map((audience) => ({ kind: 'audience', audience })),
      ),
      this.people.asks.total(),
    ]);
    const kinds = faces.map(({ choices, count }) => ({ isIn: choices.map((choice) => choice === 0), count }));
    return { total, sizes, kinds };
  }
}

function shown({ kind, severity, sentence, repairs }: TodayFinding): Count['today'][number] {
  return { kind, severity, sentence, repairs: [...repairs] };
}

/** Every part of a condition with its path, from the outside in. */
function* partsOf(condition: Condition, path = ''): Generator<{ path: string; part: Condition }> {
  if (path !== '') yield { path, part: condition };
  if (condition.kind === 'not') yield* partsOf(condition.of, join(path, 'of'));
  if (condition.kind === 'all' || condition.kind === 'any')
    for (const [index, part] of condition.of.entries()) yield* partsOf(part, join(path, `of.${index}`));
}

function join(path: string, step: string): string {
  return path === '' ? step : `${path}.${step}`;
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
  for (const { id, title, access } of items)
    add(access === null ? [] : [access], { what: 'item', id, name: title });
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
    `These audiences build on each other in a circle: ${names.join(' → ')}. Take one of them out.`,
  );
}

function stored(row: AudienceRow): StoredAudience {
  const { id, name, description, condition, examples, ownerName, accountName, revision } = row;
  return {
    id,
    name,
    description,
    condition,
    examples,
    ownerName,
    accountName,
    archivedAt: row.archivedAt?.toISOString() ?? null,
    revision,
    updatedAt: row.updatedAt.toISOString(),
  };
}
