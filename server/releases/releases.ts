import type { z } from 'zod';
import {
  type BrokenExample,
  exampleKey,
  type Pending,
  type Release,
  type releaseRequestSchema,
} from '../../contract/releases.ts';
import { changesBetween } from '../../core/deciding/changes.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { snapshotSchema } from '../../core/deciding/release.ts';
import { brokenExamples } from '../audiences/broken-examples.ts';
import type { StoredAudiences } from '../audiences/stored-audiences.ts';
import type { People } from '../people/people.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { LiveSite } from '../snapshots/live.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { settingOf, storeSetting } from '../store/rows.ts';
import { inTransaction, type Transaction } from '../store/transaction.ts';
import { OneByOne } from '../work/one-by-one.ts';
import { fingerprintOf } from './fingerprint.ts';
import { Readiness } from './readiness.ts';
import type { ReleaseThread } from './release-thread.ts';
import { outdated } from './retention.ts';
import {
  deleteReleases,
  hasUnusedParts,
  insertRelease,
  latestReleases,
  type ReleaseRow,
  releaseRow,
  releasesUpTo,
  releaseTimes,
  storedSnapshot,
  sweepParts,
} from './rows.ts';

/** The setting that names the release that is live. */
export const liveReleaseKey = 'live-release';

const mostListed = 200;
/** How many releases before one that can't be shown are tried in its place. */
const mostTried = 50;

/** How long what no release holds any more is kept, in milliseconds. */
const unusedFor = 24 * 3600 * 1000;

type Shows = ReturnType<LiveSite['prepare']>['show'];

export class Releases {
  /** The release that should be live and can't be shown; null where all is well. */
  private unshown: number | null = null;
  private readonly readiness: Readiness;
  private readonly releasing = new OneByOne();
  /** The release that is being made live here, ready to be shown as soon as the log tells of it. */
  private readied: { readonly release: number; readonly show: () => void } | undefined;

  /** @param report told of each release that can't be shown, and why */
  constructor(
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
    private readonly people: People,
    private readonly audiences: StoredAudiences,
    hasPicture: (name: string) => boolean,
    private readonly thread: ReleaseThread,
    log: ChangeLog,
    private readonly report: (release: number, error: unknown) => void,
  ) {
    this.readiness = new Readiness(hasPicture);
    log.on(['setting'], async (changes) => {
      if (changes.some(({ ids }) => ids === null || ids.includes(liveReleaseKey))) await this.follow();
    });
  }

  /**
   * Puts the release that is live in the database on the live site; at start. One that can't be shown must not keep the
   * server from starting: the latest before it that can is shown instead, and the studio says so.
   */
  async load(): Promise<void> {
    const wanted = await wantedRelease();
    if (wanted !== undefined) await this.show(wanted);
  }

  /** Shows what was made live, here or by another process. */
  private async follow(): Promise<void> {
    const wanted = await wantedRelease();
    if (wanted === undefined) return;
    if (wanted === this.live.current?.release) this.unshown = null;
    else if (this.readied?.release === wanted) this.readied.show();
    else await this.show(wanted);
  }

  private async show(wanted: number): Promise<void> {
    for (const id of await releasesUpTo(wanted, mostTried)) {
      const row = await releaseRow(id);
      if (!row) continue;
      try {
        const { compiled, show } = this.live.prepare(snapshotSchema.parse(await storedSnapshot(id)));
        compiled.makeAll();
        show(row.id, row.createdAt);
        break;
      } catch (error) {
        this.report(id, error);
      }
    }
    this.unshown = this.live.current?.release === wanted ? null : wanted;
  }

  /** The snapshot of a release as it is stored; undefined where there is no such release. */
  stored(id: number): Promise<unknown> {
    return storedSnapshot(id);
  }

  async pending(): Promise<Pending> {
    const decider = await this.drafts.decider();
    const changes = changesBetween(this.live.current?.snapshot, decider.snapshot);
    // Somebody will want to know soon what these do.
    if (changes.length > 0) this.thread.begin();
    return {
      changes,
      problems: this.readiness.problems(decider),
      brokenExamples: await this.broken(decider),
      liveRelease: this.live.current?.release ?? null,
      unshown: this.unshown,
      fingerprint: fingerprintOf(decider.snapshot),
    };
  }

  private async broken(decider: Decider): Promise<BrokenExample[]> {
    return brokenExamples(await this.audiences.all(), decider, this.people, Date.now());
  }

  /** Makes the drafts live in one step, if they are still the ones that were listed. */
  release(request: z.infer<typeof releaseRequestSchema>, accountName: string): Promise<Release> {
    return this.releasing.after(() => this.makeRelease(request, accountName));
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
    const [problem] = this.readiness.problems(decider);
    if (problem) throw new Refusal(422, `${problem.name}: ${problem.message}. Fix it, then release.`);
    const known = new Set(accepted);
    const broken = (await this.broken(decider)).find((one) => !known.has(exampleKey(one)));
    if (broken)
      throw new Refusal(
        422,
        `${broken.person} ${broken.isIn ? 'should be in “' : 'should not be in “'}${broken.name}” but ${broken.isIn ? 'isn’t' : 'is'}. Fix the audience or its example, or release anyway.`,
      );
    const changes = changesBetween(this.live.current?.snapshot, snapshot);
    if (changes.length === 0) throw new Refusal(422, 'Nothing changed since the last release.');
    const { show } = await this.ready(snapshot, 'These changes');
    const made = await inTransaction(async (transaction) => {
      const row = await insertRelease({ note, accountName, changes, snapshot }, transaction);
      await this.makeLive(row, show, transaction);
      return row;
    });
    return this.described(made);
  }

  /** Makes an earlier release live again; drafts stay as they are. */
  goBackTo(id: number): Promise<Release> {
    return this.releasing.after(async () => {
      const row = await releaseRow(id);
      if (!row) throw notFound('release');
      const { show } = await this.ready(await storedSnapshot(id), `Release ${id}`);
      await inTransaction((transaction) => this.makeLive(row, show, transaction));
      return this.described(row);
    });
  }

  /** Stores that a release is live; it is shown once that is committed. */
  private async makeLive(
    { id, createdAt }: ReleaseRow,
    show: Shows,
    transaction: Transaction,
  ): Promise<void> {
    await storeSetting(liveReleaseKey, id, transaction);
    const shown = () => {
      show(id, createdAt);
      this.unshown = null;
    };
    this.readied = { release: id, show: shown };
  }

  /** A snapshot made ready to be shown; refused, with the reason, where it can't be read again or shown. */
  private async ready(stored: unknown, what: string): Promise<ReturnType<LiveSite['prepare']>> {
    const read = await this.thread.do('read', { stored, base: this.live.base });
    if ('reason' in read)
      throw new Refusal(422, `${what} can’t be shown: ${read.reason}. Nothing was changed.`);
    return this.live.prepare(read.snapshot);
  }

  async list(): Promise<Release[]> {
    return (await latestReleases(mostListed)).map((row) => this.described(row));
  }

  /**
   * Deletes the releases that are no longer kept, and what only they held.
   *
   * @param named the releases that something else names
   */
  async clear(named: readonly number[]): Promise<void> {
    const now = Date.now();
    const wanted = await wantedRelease();
    const needed = new Set([...named, wanted, this.live.current?.release].filter((id) => id !== undefined));
    const gone = outdated(await releaseTimes(), needed, now);
    if (gone.length > 0) await inTransaction((transaction) => deleteReleases(gone, transaction));
    if (gone.length > 0 || (await hasUnusedParts())) await sweepParts(now, unusedFor);
  }

  /** The slots of what is live that may stand on other sites. */
  slotKeys(): { key: string; page: string; slot: string }[] {
    return this.live.current?.compiled.slots.keys() ?? [];
  }

  private described(row: ReleaseRow): Release {
    const { id, note, accountName, changes } = row;
    const createdAt = row.createdAt.toISOString();
    return { id, note, accountName, changes, createdAt, live: this.live.current?.release === id };
  }
}

async function wantedRelease(): Promise<number | undefined> {
  const value = await settingOf(liveReleaseKey);
  return typeof value === 'number' ? value : undefined;
}
