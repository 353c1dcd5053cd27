import { createHash } from 'node:crypto';
import { Op } from 'sequelize';
import type { z } from 'zod';
import {
  exampleKey,
  type Impact,
  type Pending,
  type Release,
  type releaseRequestSchema,
} from '../../contract/releases.ts';
import { differenceOf, type Pairing, pair } from '../../core/analysis/difference.ts';
import { changedItems } from '../../core/analysis/item-difference.ts';
import { pairMenu } from '../../core/analysis/menu-difference.ts';
import { changesBetween } from '../../core/deciding/changes.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { audiencesOfMenu } from '../../core/deciding/menu.ts';
import { type Snapshot, snapshotSchema } from '../../core/deciding/release.ts';
import { channelOf, type Document, slotsOf } from '../../core/documents/document.ts';
import { unreleasable } from '../../core/documents/validate.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { LiveSite } from '../site/live.ts';
import { ReleaseRow, SettingRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import { brokenExamples } from './broken-examples.ts';
import type { Drafts } from './drafts.ts';
import { type People, personRecord } from './people.ts';

/** The setting that names the release that is live. */
export const liveReleaseKey = 'live-release';

/** Most changes of one document that are listed. */
const changesShown = 40;
/** Most items whose change is counted, those that are new or gone included. */
const itemsCounted = 40;

export class Releases {
  /** The release that should be live and can't be shown; null where all is well. */
  private unshown: number | null = null;
  /** Releases are made one after another. */
  private last: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
    private readonly people: People,
    private readonly views: ReadonlyMap<string, number>,
    private readonly hasPicture: (name: string) => boolean,
  ) {}

  /**
   * Puts the release that is live in the database on the live site; at start. One that can't be shown must not keep the
   * server from starting: the latest before it that can is shown instead, and the studio says so.
   *
   * @param report told of each release that can't be shown, and why
   */
  async load(report: (release: number, error: unknown) => void): Promise<void> {
    const setting = await SettingRow.findByPk(liveReleaseKey);
    const wanted = setting?.value;
    if (typeof wanted !== 'number') return;
    const ids = await ReleaseRow.findAll({
      attributes: ['id'],
      where: { id: { [Op.lte]: wanted } },
      order: [['id', 'DESC']],
      limit: 50,
      raw: true,
    });
    for (const { id } of ids) {
      const row = await ReleaseRow.findByPk(id);
      if (!row) continue;
      try {
        this.live.prepare(snapshotSchema.parse(row.snapshot))(row.id, row.createdAt);
        break;
      } catch (error) {
        report(id, error);
      }
    }
    if (this.live.current?.release !== wanted) this.unshown = wanted;
  }

  async pending(): Promise<Pending> {
    const decider = await this.drafts.decider();
    return {
      changes: changesBetween(this.live.current?.snapshot, decider.snapshot),
      problems: this.problems(decider),
      brokenExamples: await brokenExamples(decider, this.people, Date.now()),
      liveRelease: this.live.current?.release ?? null,
      unshown: this.unshown,
      fingerprint: fingerprintOf(decider.snapshot),
    };
  }

  /** Whom the drafts would change what for, proved for every possible viewer and counted among contacts. */
  async impact(instant: number): Promise<Impact> {
    return this.impactOf((await this.drafts.decider()).snapshot, instant);
  }

  /** Whom it would change what for to go back to an earlier release. */
  async impactOfGoingBack(id: number, instant: number): Promise<Impact> {
    const row = await ReleaseRow.findByPk(id);
    if (!row) throw notFound('release');
    const read = snapshotSchema.safeParse(row.snapshot);
    if (!read.success) throw new Refusal(422, `Release ${id} can’t be shown any more.`);
    return this.impactOf(read.data, instant);
  }

  private async impactOf(snapshot: Snapshot, instant: number): Promise<Impact> {
    const live = this.live.current?.snapshot;
    const ids = new Set([...(live?.documents ?? []), ...snapshot.documents].map(({ id }) => id));
    const documents: Impact['documents'] = [];
    for (const id of ids) {
      const found = await this.documentImpact(pair(live, snapshot, id), snapshot, instant);
      if (found) documents.push(found);
    }
    const menu = await this.documentImpact(pairMenu(live, snapshot), snapshot, instant);
    if (menu) documents.push({ ...menu, kind: 'menu' });
    const items = changedItems(live, snapshot, instant, this.views);
    for (const pairing of items.slice(0, itemsCounted)) {
      const found = await this.documentImpact(pairing, snapshot, instant);
      if (found) documents.push({ ...found, kind: 'item' });
    }
    documents.sort((left, right) => right.contacts - left.contacts);
    const itemsLeft = Math.max(0, items.length - itemsCounted);
    return { total: await this.people.asks.total(), itemsLeft, documents };
  }

  private async documentImpact(
    pairing: Pairing,
    after: Snapshot,
    instant: number,
  ): Promise<Impact['documents'][number] | undefined> {
    const document = pairing.after ?? pairing.before;
    if (!document) return undefined;
    const { transitions, complete, refused } = differenceOf(pairing, after, instant);
    const scope = { attributes: after.attributes, zone: after.settings.zone, audiences: pairing.audiences };
    const setting = this.people.now(channelOf(document.kind), instant);
    const occurring = (await this.people.asks.faces(scope, setting, pairing.content)).filter(({ choices }) =>
      pairing.isChange(choices),
    );
    if (transitions.length === 0 && occurring.length === 0) return undefined;
    const people = new Map(
      (await this.people.find(occurring.slice(0, changesShown).map(({ contact }) => contact))).map(
        (person) => [person.id, personRecord(person)],
      ),
    );
    const name = (choices: readonly number[] | undefined) => choices?.join() ?? '';
    const listed = occurring.map(({ choices, count, contact }) => {
      const { before, after: next } = pairing.split(choices);
      return {
        before: before ?? null,
        after: next ?? null,
        opening: pairing.opening(choices),
        contacts: count,
        person: people.get(contact) ?? null,
      };
    });
    const seen = new Set(
      listed.map(({ before, after: next }) => `${name(before ?? undefined)} ${name(next ?? undefined)}`),
    );
    const possible = transitions
      .filter((change) => !seen.has(`${name(change.before)} ${name(change.after)}`))
      .map((change) => ({
        before: change.before ? [...change.before] : null,
        after: change.after ? [...change.after] : null,
        opening: pairing.opening([...(change.before ?? []), ...(change.after ?? [])]),
        contacts: 0,
        person: null,
      }));
    const changes = [...listed, ...possible];
    return {
      id: document.id,
      name: document.name,
      kind: document.kind,
      parts: [...pairing.parts],
      contacts: occurring.reduce((sum, { count }) => sum + count, 0),
      anonymous: transitions.some(({ witness }) => witness.contact === null),
      changes: changes.slice(0, changesShown),
      complete: complete && refused === undefined && changes.length <= changesShown,
      slots: {
        before: slotNames(pairing.before, this.live.current?.snapshot),
        after: slotNames(pairing.after, after),
      },
    };
  }

  /** Makes the drafts live in one step, if they are still the ones that were listed. */
  release(request: z.infer<typeof releaseRequestSchema>, accountName: string): Promise<Release> {
    return this.afterOthers(() => this.makeRelease(request, accountName));
  }

  private async makeRelease(
    { note, fingerprint, accepted }: z.infer<typeof releaseRequestSchema>,
    accountName: string,
  ): Promise<Release> {
    const decider = await this.drafts.decider();
    const { snapshot } = decider;
    if (fingerprintOf(snapshot) !== fingerprint)
      throw new Refusal(
        409,
        'Something changed after this list was made. Look at the new list, then release.',
      );
    const [problem] = this.problems(decider);
    if (problem) throw new Refusal(422, `${problem.name}: ${problem.message}. Mend it, then release.`);
    const known = new Set(accepted);
    const broken = (await brokenExamples(decider, this.people, Date.now())).find(
      (one) => !known.has(exampleKey(one)),
    );
    if (broken)
      throw new Refusal(
        422,
        `${broken.person} ${broken.isIn ? 'should be in “' : 'should not be in “'}${broken.name}” but ${broken.isIn ? 'isn’t' : 'is'}. Fix the audience or its example, or release anyway.`,
      );
    const changes = changesBetween(this.live.current?.snapshot, snapshot);
    if (changes.length === 0) throw new Refusal(422, 'Nothing changed since the last release.');
    // What can't be read again, or shown, must not become live.
    const { show } = this.ready(JSON.parse(JSON.stringify(snapshot)), 'These changes');
    const made = await inTransaction(async (transaction) => {
      const row = await ReleaseRow.create({ note, accountName, changes, snapshot }, { transaction });
      await SettingRow.upsert({ key: liveReleaseKey, value: row.id }, { transaction });
      return row.reload({ transaction });
    });
    show(made.id, made.createdAt);
    this.unshown = null;
    return this.described(made);
  }

  /** Makes an earlier release live again; drafts stay as they are. */
  goBackTo(id: number): Promise<Release> {
    return this.afterOthers(async () => {
      const row = await ReleaseRow.findByPk(id);
      if (!row) throw notFound('release');
      const { show } = this.ready(row.snapshot, `Release ${id}`);
      await SettingRow.upsert({ key: liveReleaseKey, value: row.id });
      show(row.id, row.createdAt);
      this.unshown = null;
      return this.described(row);
    });
  }

  /** A stored snapshot made ready to be shown; refused, with the reason, where it can't be. */
  private ready(stored: unknown, what: string): { show: ReturnType<LiveSite['prepare']> } {
    const read = snapshotSchema.safeParse(stored);
    if (!read.success) {
      const [issue] = read.error.issues;
      throw new Refusal(
        422,
        `${what} can’t be shown: ${issue?.path.join('.') ?? ''} ${issue?.message ?? 'is not sound'}. Nothing was changed.`,
      );
    }
    try {
      return { show: this.live.prepare(read.data) };
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      throw new Refusal(422, `${what} can’t be shown: ${reason}. Nothing was changed.`);
    }
  }

  private afterOthers<Result>(work: () => Promise<Result>): Promise<Result> {
    const done = this.last.then(work, work);
    this.last = done.catch(() => undefined);
    return done;
  }

  async list(): Promise<Release[]> {
    const rows = await ReleaseRow.findAll({
      attributes: { exclude: ['snapshot'] },
      order: [['id', 'DESC']],
      limit: 200,
    });
    return rows.map((row) => this.described(row));
  }

  /** The slots of what is live that may stand on other sites. */
  slotKeys(): { key: string; page: string; slot: string }[] {
    return this.live.current?.compiled.slotKeys() ?? [];
  }

  private described(row: ReleaseRow): Release {
    const { id, note, accountName, changes } = row;
    const createdAt = row.createdAt.toISOString();
    return { id, note, accountName, changes, createdAt, live: this.live.current?.release === id };
  }

  private problems({ snapshot, catalogue, membership }: Decider): Pending['problems'] {
    const surroundings = {
      catalogue,
      hasAudience: (id: string) => snapshot.audiences.some((audience) => audience.id === id),
      hasPicture: this.hasPicture,
      hasCollection: (id: string) => snapshot.collections?.some((one) => one.id === id) ?? false,
      hasPiece: (id: string) => snapshot.documents.some((one) => one.id === id && one.kind === 'shared'),
    };
    const inDocuments = snapshot.documents.flatMap((document) =>
      unreleasable(document.kind, document.content, surroundings).map(({ message }) => ({
        document: document.id,
        name: document.name,
        message,
      })),
    );
    const inAudiences = snapshot.audiences.flatMap((audience) =>
      (membership.problems.get(audience.id) ?? []).slice(0, 1).map(({ message }) => ({
        document: audience.id,
        name: audience.name,
        message,
      })),
    );
    return [...inDocuments, ...inAudiences, ...closedProblems(snapshot)];
  }
}

/** What keeps things from being opened by anybody: an audience that is gone, a notice that is closed itself. */
function closedProblems({
  audiences,
  documents,
  collections = [],
  items = [],
  settings,
}: Snapshot): Pending['problems'] {
  const isGone = (id: string | null | undefined) => id != null && !audiences.some((one) => one.id === id);
  const gone = 'Who may open it is an audience that is gone';
  return [
    ...documents.flatMap(({ id, name, access, collection }) => {
      const problems = isGone(access?.audience) ? [gone] : [];
      const instead = typeof access?.otherwise === 'object' ? access.otherwise.page : undefined;
      const notice = documents.find((one) => one.id === instead);
      if (instead !== undefined && (!notice || notice.access || notice.collection))
        problems.push('The page that the others get is gone, or not open to everybody itself');
      if (collection && !collections.some((one) => one.id === collection))
        problems.push('It shows items of a collection that is gone');
      return problems.map((message) => ({ document: id, name, message }));
    }),
    ...collections
      .filter(({ access }) => isGone(access))
      .map(({ id, name }) => ({ document: id, name, message: gone })),
    ...items
      .filter(({ access }) => isGone(access))
      .map(({ id, title }) => ({ document: id, name: title, message: gone })),
    ...(audiencesOfMenu(settings).some(isGone)
      ? [
          {
            document: 'settings',
            name: 'The site’s menu',
            message: 'An entry is for an audience that is gone',
          },
        ]
      : []),
  ];
}

/** The slots of a document, each with the names of the audiences of its variants. */
function slotNames(document: Document | undefined, snapshot: Snapshot | undefined) {
  const names = new Map(snapshot?.audiences.map(({ id, name }) => [id, name]));
  return document
    ? slotsOf(document.content).map(({ name, variants }) => ({
        name,
        audiences: variants.map(({ audience }) => names.get(audience) ?? 'a deleted audience'),
      }))
    : [];
}

function fingerprintOf(snapshot: Snapshot): string {
  return createHash('sha256').update(JSON.stringify(snapshot)).digest('hex').slice(0, 32);
}
