import { setTimeout as delay } from 'node:timers/promises';
import { z } from 'zod';
import { type Impact, type ImpactAnswer, impactSchema } from '../../contract/releases.ts';
import type { ChangesOfDocument, Compared } from '../../core/analysis/comparison.ts';
import { whatMayDiffer } from '../../core/analysis/may-differ.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import { type People, personRecord } from '../people/people.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { LiveSite } from '../snapshots/live.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { OneByOne } from '../work/one-by-one.ts';
import type { JobOutcome, JobQueue, RunningJob } from '../work/queue.ts';
import { fingerprintOf } from './fingerprint.ts';
import type { ReleaseThread } from './release-thread.ts';
import { releaseRow, storedSnapshot } from './rows.ts';

const kind = 'impact';
/** What is compared with what is live: an earlier release, or the drafts. */
const payloadSchema = z.object({ release: z.number().nullable() });
type Payload = z.infer<typeof payloadSchema>;
const resultSchema = z.object({ impact: impactSchema, position: z.number() });
/** How long what was worked out is true; the time of day goes into it. In milliseconds. */
const keptFor = 60_000;
/** How long an answer waits for what is being worked out, in milliseconds. */
const patience = 2_000;

/**
 * Whom a release would change what for, proved for every possible viewer and counted among contacts: worked out in the
 * background, by any server, once for all who ask.
 */
export class Impacts {
  /** The latest change of contacts; what was counted before it may be other by now. */
  private contactsAt: number;
  private readonly comparing = new OneByOne();

  constructor(
    private readonly drafts: Drafts,
    private readonly live: LiveSite,
    private readonly people: People,
    private readonly views: ReadonlyMap<string, number>,
    private readonly thread: ReleaseThread,
    private readonly queue: JobQueue,
    private readonly log: ChangeLog,
  ) {
    this.contactsAt = log.position;
    log.on(['contact'], async (changes) => {
      this.contactsAt = changes.at(-1)?.position ?? this.contactsAt;
    });
    queue.handle({ kind, payload: payloadSchema, tries: 2, run: (job) => this.run(job) });
  }

  /** What releasing the drafts would change. */
  async ofDrafts(accountName: string): Promise<ImpactAnswer> {
    const { snapshot } = await this.drafts.decider();
    return this.known(`drafts-${fingerprintOf(snapshot)}`, null, accountName);
  }

  /** What going back to an earlier release would change. */
  async ofGoingBack(id: number, accountName: string): Promise<ImpactAnswer> {
    if (!(await releaseRow(id))) throw notFound('release');
    return this.known(`release-${id}`, id, accountName);
  }

  /** Removes what was worked out and is true no more. */
  clear(): Promise<void> {
    return this.queue.forget(keptFor, kind);
  }

  /** What is known by now, or how far it is with being worked out. */
  private async known(what: string, release: number | null, accountName: string): Promise<ImpactAnswer> {
    const key = `${kind}-${this.live.current?.release ?? 0}-${what}`;
    const latest = await this.queue.latest(key);
    const already = latest && this.answerOf(latest);
    if (already) return already;
    const title =
      release === null
        ? 'Work out who a release affects'
        : `Work out who going back to release ${release} affects`;
    const id = await this.queue.add({ kind, title, payload: { release }, key, accountName });
    for (const end = Date.now() + patience; ; await delay(25)) {
      const job = await this.queue.get(id);
      if (job.status === 'failed') throw new Refusal(422, job.failure ?? 'It could not be worked out.');
      if (job.status === 'stopped') throw new Refusal(409, 'This was stopped. Open it again to start over.');
      const { data } = resultSchema.safeParse(job.result);
      if (job.status === 'done' && data) return data.impact;
      if (Date.now() >= end) return { job: id, progress: job.progress };
    }
  }

  /** The answer that a job gave, as long as it is true; undefined where it has to be worked out. */
  private answerOf({ status, result, finishedAt }: JobOutcome): Impact | undefined {
    const { data } = resultSchema.safeParse(result);
    const isFresh = finishedAt !== null && Date.now() - finishedAt.getTime() < keptFor;
    return status === 'done' && data && isFresh && data.position >= this.contactsAt ? data.impact : undefined;
  }

  private async run(job: RunningJob<Payload>): Promise<z.infer<typeof resultSchema>> {
    const { position } = this.log;
    const snapshot = await this.snapshotOf(job.payload.release);
    // The thread keeps what it compared last, so that one comparison is brought to its end before the next.
    const impact = await this.comparing.after(() => this.compare(snapshot, job));
    return { impact, position };
  }

  private async snapshotOf(release: number | null): Promise<Snapshot> {
    if (release === null) return (await this.drafts.decider()).snapshot;
    const stored = await storedSnapshot(release);
    const read = await this.thread.do('read', { stored, base: this.live.base });
    if ('reason' in read) throw new Refusal(422, `Release ${release} can’t be shown any more.`);
    return read.snapshot;
  }

  private async compare(snapshot: Snapshot, { signal, commit }: RunningJob<Payload>): Promise<Impact> {
    const tell = (progress: number) => commit(async () => {}, { progress, state: null });
    const instant = Date.now();
    const compared = await this.thread.do(
      'compare',
      { ...whatMayDiffer(this.live.current?.snapshot, snapshot), instant, views: new Map(this.views) },
      signal,
    );
    await tell(0.4);
    const faces = await Promise.all(
      compared.documents.map(({ channel, audiences, content }) => {
        const scope = { attributes: snapshot.attributes, zone: snapshot.settings.zone, audiences };
        return this.people.asks.faces(scope, this.people.now(channel, instant), content);
      }),
    );
    await tell(0.7);
    const changes = await this.thread.do('changes', faces, signal);
    const documents: Impact['documents'] = [];
    for (const [index, document] of compared.documents.entries()) {
      const found = changes[index];
      if (found) documents.push(await this.withPeople(document, found));
    }
    documents.sort((left, right) => right.contacts - left.contacts);
    return { total: await this.people.asks.total(), itemsLeft: compared.itemsLeft, documents };
  }

  /** What changes of a document, with somebody for each change. */
  private async withPeople(
    { id, name, kind: what, parts, slots }: Compared,
    { changes, ...found }: ChangesOfDocument,
  ): Promise<Impact['documents'][number]> {
    const ids = changes.flatMap(({ contact }) => contact ?? []);
    const people = new Map((await this.people.find(ids)).map((person) => [person.id, personRecord(person)]));
    return {
      id,
      name,
      kind: what,
      parts: [...parts],
      ...found,
      changes: changes.map(({ contact, ...change }) => ({
        ...change,
        person: people.get(contact ?? -1) ?? null,
      })),
      slots: { before: plain(slots.before), after: plain(slots.after) },
    };
  }
}

function plain(slots: Compared['slots']['before']): { name: string; audiences: string[] }[] {
  return slots.map(({ name, audiences }) => ({ name, audiences: [...audiences] }));
}
