import { z } from 'zod';
import type { SendReport, SendRequest } from '../../contract/mail.ts';
import { snapshotSchema } from '../../core/deciding/release.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { addressProblem } from '../people/address-problem.ts';
import { stoppedAmong } from '../people/contact-rows.ts';
import type { People } from '../people/people.ts';
import { notFound, Refusal } from '../refusal.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { inTransaction } from '../store/transaction.ts';
import { Hopeless, type JobQueue, type RunningJob } from '../work/queue.ts';
import { type HandedOver, HandOver } from './hand-over.ts';
import { messageFor, type Sender } from './message.ts';
import {
  addRecipients,
  countRecipients,
  countWaiting,
  type DeliveryRow,
  finishSend,
  insertSend,
  reportOf,
  type SendRow,
  sendRow,
  settle,
  settleLeftBehind,
  takeWaiting,
} from './rows.ts';

/** Most people that one audience is sent to at once. */
const mostRecipients = 1_000_000;
const atOnce = 20;
const addedAtOnce = 2000;
const kind = 'send';
const payload = z.object({ send: z.number() });
type Job = RunningJob<z.infer<typeof payload>>;

/** Sends emails to contacts, in the background. */
export class Sending {
  constructor(
    private readonly people: People,
    private readonly live: LiveSite,
    private readonly queue: JobQueue,
    /** The stored snapshot of a release. */
    private readonly released: (release: number) => Promise<unknown>,
    private readonly sender: Sender,
    private readonly smtp: string,
  ) {
    queue.handle({ kind, payload, tries: 8, run: (job) => this.work(job) });
  }

  /**
   * Begins to send the released email: each message is composed for its recipient as recognised, and handed over by SMTP. A
   * contact is written to once, however often chosen.
   */
  async begin(request: SendRequest, accountName: string): Promise<SendReport> {
    const { current } = this.live;
    const document = current?.snapshot.documents.find(
      ({ id, kind }) => id === request.document && kind === 'email',
    );
    if (!current || !document)
      throw new Refusal(422, 'This email is not released yet. Release it first, then send it.');
    const { settings, audiences } = current.snapshot;
    if (settings.postalAddress.trim() === '')
      throw new Refusal(
        422,
        'An email needs your postal address at its foot. Add it under Site settings, release, then send it.',
      );
    if (request.audience !== null && !audiences.some(({ id }) => id === request.audience))
      throw new Refusal(422, 'This audience is not released yet. Release it first, then send.');
    const contacts = [...new Set(request.contacts)];
    if ((await this.people.find(contacts)).length < contacts.length) throw notFound('contact');
    const send = await inTransaction(async (transaction) => {
      const row = await insertSend(
        {
          documentId: document.id,
          documentName: document.name,
          releaseId: current.release,
          accountName,
          recipients: { contacts, audience: request.audience },
        },
        transaction,
      );
      const title = `Send “${document.name}”`;
      const key = keyOf(row.id);
      await this.queue.add({ kind, title, payload: { send: row.id }, key, accountName }, transaction);
      return row;
    });
    return this.report(send.id);
  }

  async report(id: number): Promise<SendReport> {
    const report = await reportOf(id);
    if (!report) throw notFound('send');
    const active = await this.queue.active(keyOf(id));
    return { ...report, job: active?.id ?? null };
  }

  /** Works a send off, from where it had come to. */
  private async work(job: Job): Promise<void> {
    const send = await sendRow(job.payload.send);
    if (!send || send.finishedAt) return;
    await this.fix(send, job);
    const compiled = await this.compiledFor(send);
    const all = Math.max(1, await countRecipients(send.id));
    const mail = new HandOver(this.smtp);
    try {
      // Everybody once: those that the mail server has no time for now are tried again when the job is.
      for (let after = 0; ; ) {
        const progress = 1 - (await countWaiting(send.id)) / all;
        const taken = await job.commit(
          (transaction) => takeWaiting(send.id, { after, most: atOnce }, transaction),
          { progress, state: 'fixed' },
        );
        const last = taken.at(-1);
        if (!last) break;
        after = last.id;
        const became = await this.handOver(taken, send.documentId, compiled, mail);
        // Also where the job is to end: what was handed over is known.
        await settle(send.id, became);
      }
      const left = await countWaiting(send.id);
      if (left > 0) throw new Error(`The mail server did not take ${left} of ${all} messages yet.`);
    } finally {
      mail.close();
    }
    await job.commit((transaction) => finishSend(send.id, transaction), { progress: 1, state: 'fixed' });
  }

  /** Finds out who the recipients are, once; and what became of those that a process left behind that ended. */
  private async fix(send: SendRow, job: Job): Promise<void> {
    if ((await countRecipients(send.id)) === 0) {
      const people = await this.recipients(send);
      await job.commit(
        async (transaction) => {
          for (let at = 0; at < people.length; at += addedAtOnce)
            await addRecipients(send.id, people.slice(at, at + addedAtOnce), transaction);
        },
        { progress: 0, state: 'fixed' },
      );
    } else
      await job.commit((transaction) => settleLeftBehind(send.id, transaction), {
        progress: null,
        state: 'fixed',
      });
  }

  private async recipients({ recipients, releaseId }: SendRow): Promise<{ id: number; email: string }[]> {
    const { contacts = [], audience = null } = recipients ?? {};
    const chosen = new Set(contacts);
    if (audience !== null) {
      const snapshot = await this.snapshotOf(releaseId);
      const ids = await this.people.asks.some(
        this.people.scopeOf(snapshot),
        this.people.now('page'),
        { kind: 'audience', audience },
        mostRecipients,
      );
      for (const id of ids) chosen.add(id);
    }
    const found: { id: number; email: string }[] = [];
    const ids = [...chosen];
    for (let at = 0; at < ids.length; at += addedAtOnce)
      for (const { id, email } of await this.people.find(ids.slice(at, at + addedAtOnce)))
        found.push({ id, email });
    return found;
  }

  private async handOver(
    taken: readonly DeliveryRow[],
    document: string,
    compiled: CompiledSnapshot,
    mail: HandOver,
  ): Promise<Map<number, HandedOver>> {
    const ids = taken.map(({ contactId }) => contactId);
    const [people, stopped] = await Promise.all([this.people.find(ids), stoppedAmong(ids)]);
    const byId = new Map(people.map((person) => [person.id, person]));
    const became = await Promise.all(
      taken.map(async ({ id, contactId }): Promise<[number, HandedOver]> => {
        const person = byId.get(contactId);
        const problem = !person
          ? 'is no contact any more'
          : stopped.has(contactId)
            ? 'has stopped these emails'
            : addressProblem(person.email);
        if (!person || problem !== undefined) return [id, { status: 'refused', reason: problem ?? '' }];
        return [id, await mail.give(messageFor(person, document, compiled, this.sender))];
      }),
    );
    return new Map(became);
  }

  private async snapshotOf(release: number) {
    const { current } = this.live;
    if (current?.release === release) return current.snapshot;
    const read = snapshotSchema.safeParse(await this.released(release));
    if (!read.success) throw new Hopeless(`Release ${release} can’t be read any more.`);
    return read.data;
  }

  private async compiledFor({ releaseId }: SendRow): Promise<CompiledSnapshot> {
    const { current } = this.live;
    if (current?.release === releaseId) return current.compiled;
    return new CompiledSnapshot(await this.snapshotOf(releaseId), this.sender.origin);
  }
}

const keyOf = (send: number) => `send-${send}`;
