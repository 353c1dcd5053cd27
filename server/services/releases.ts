import { createHash } from 'node:crypto';
import type { Pending, Release } from '../../contract/releases.ts';
import { changesBetween } from '../../core/deciding/changes.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { type Snapshot, snapshotSchema } from '../../core/deciding/release.ts';
import { unreleasable } from '../../core/documents/validate.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { LiveSite } from '../site/live.ts';
import { ReleaseRow, SettingRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { Drafts } from './drafts.ts';

/** The setting that names the release that is live. */
export const liveReleaseKey = 'live-release';

export class Releases {
  constructor(
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
    private readonly hasPicture: (name: string) => boolean,
  ) {}

  /** Puts the release that is live in the database on the live site; at start. */
  async load(): Promise<void> {
    const setting = await SettingRow.findByPk(liveReleaseKey);
    const row = typeof setting?.value === 'number' ? await ReleaseRow.findByPk(setting.value) : null;
    if (row) this.live.show(row.id, snapshotSchema.parse(row.snapshot));
  }

  async pending(): Promise<Pending> {
    const decider = await this.drafts.decider();
    return {
      changes: changesBetween(this.live.current?.snapshot, decider.snapshot),
      problems: this.problems(decider),
      liveRelease: this.live.current?.release ?? null,
      fingerprint: fingerprintOf(decider.snapshot),
    };
  }

  /** Makes the drafts live in one step, if they are still the ones that were listed. */
  async release(note: string, fingerprint: string, accountName: string): Promise<Release> {
    const decider = await this.drafts.decider();
    const { snapshot } = decider;
    if (fingerprintOf(snapshot) !== fingerprint)
      throw new Refusal(
        409,
        'Something changed after this list was made. Look at the new list, then release.',
      );
    const [problem] = this.problems(decider);
    if (problem) throw new Refusal(422, `${problem.name}: ${problem.message}. Mend it, then release.`);
    const changes = changesBetween(this.live.current?.snapshot, snapshot);
    if (changes.length === 0) throw new Refusal(422, 'Nothing changed since the last release.');
    const row = await inTransaction(async (transaction) => {
      const made = await ReleaseRow.create({ note, accountName, changes, snapshot }, { transaction });
      await SettingRow.upsert({ key: liveReleaseKey, value: made.id }, { transaction });
      return made;
    });
    this.live.show(row.id, snapshot);
    return this.described(await row.reload());
  }

  /** Makes an earlier release live again; drafts stay as they are. */
  async goBackTo(id: number): Promise<Release> {
    const row = await ReleaseRow.findByPk(id);
    if (!row) throw notFound('release');
    const snapshot = snapshotSchema.parse(row.snapshot);
    await SettingRow.upsert({ key: liveReleaseKey, value: row.id });
    this.live.show(row.id, snapshot);
    return this.described(row);
  }

  async list(): Promise<Release[]> {
    const rows = await ReleaseRow.findAll({
      attributes: { exclude: ['snapshot'] },
      order: [['id', 'DESC']],
      limit: 200,
    });
    return rows.map((row) => this.described(row));
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
    return [...inDocuments, ...inAudiences];
  }
}

function fingerprintOf(snapshot: Snapshot): string {
  return createHash('sha256').update(JSON.stringify(snapshot)).digest('hex').slice(0, 32);
}
