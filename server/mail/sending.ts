import nodemailer from 'nodemailer';
import type { SendReport } from '../../contract/mail.ts';
import type { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import { notFound, Refusal } from '../refusal.ts';
import { type KnownPerson, type People, personAsViewer } from '../services/people.ts';
import type { KnownTokens } from '../site/known.ts';
import type { LiveSite } from '../site/live.ts';
import { ContactRow, DeliveryRow, SendRow } from '../store/models.ts';
import { inTransaction } from '../store/transaction.ts';
import type { UnsubscribeTokens } from './unsubscribe.ts';

/** Most people that one audience is sent to at once. */
const mostRecipients = 1_000_000;

interface Delivery {
  contactId: number;
  email: string;
  status: 'sent' | 'refused';
  reason: string;
}

/** Why mail can't go to an address, or undefined. A line break in it could forge headers (RFC 5322, 2.2). */
export function addressProblem(email: string): string | undefined {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(email)) return 'the address contains a line break or control character';
  if (!/^[^\s@<>(),;:"[\]\\]+@[^\s@<>(),;:"[\]\\]+$/.test(email)) return 'is not an email address';
  return undefined;
}

export class Sending {
  constructor(
    private readonly people: People,
    private readonly live: LiveSite,
    private readonly tokens: UnsubscribeTokens,
    private readonly known: KnownTokens,
    private readonly origin: string,
    private readonly smtpPort: number,
  ) {}

  /**
   * Composes the released email for each recipient as recognised and hands it over by SMTP. Recipients who can't
   * get it are listed with the reason; a contact is written to once, however often chosen.
   */
  async send(
    request: { document: string; contacts: number[]; audience: string | null },
    accountName: string,
  ): Promise<SendReport> {
    const { current } = this.live;
    const document = current?.snapshot.documents.find(
      ({ id, kind }) => id === request.document && kind === 'email',
    );
    if (!current || !document)
      throw new Refusal(422, 'This email is not released yet. Release it first, then send it.');
    const recipients = await this.recipients(request, current.compiled);
    const stopped = await this.stopped(recipients);
    const transport = nodemailer.createTransport({
      host: '127.0.0.1',
      port: this.smtpPort,
      secure: false,
      ignoreTLS: true,
      pool: true,
      maxConnections: 4,
    });
    let deliveries: Delivery[];
    try {
      deliveries = await Promise.all(
        recipients.map(async (person): Promise<Delivery> => {
          const entry = { contactId: person.id, email: person.email };
          const problem = stopped.has(person.id) ? 'has stopped these emails' : addressProblem(person.email);
          if (problem) return { ...entry, status: 'refused', reason: problem };
          try {
            await transport.sendMail(this.message(document.id, person, current.compiled));
            return { ...entry, status: 'sent', reason: '' };
          } catch (error) {
            const reason = error instanceof Error ? error.message : String(error);
            return { ...entry, status: 'refused', reason: `the mail server said: ${reason}`.slice(0, 500) };
          }
        }),
      );
    } finally {
      transport.close();
    }
    const send = await inTransaction(async (transaction) => {
      const row = await SendRow.create(
        { documentId: document.id, documentName: document.name, releaseId: current.release, accountName },
        { transaction },
      );
      await DeliveryRow.bulkCreate(
        deliveries.map((delivery) => ({ ...delivery, email: delivery.email.slice(0, 254), sendId: row.id })),
        { transaction },
      );
      return row;
    });
    const refused = deliveries.filter((delivery) => delivery.status === 'refused');
    return {
      id: send.id,
      sent: deliveries.length - refused.length,
      refused: refused.map(({ email, reason }) => ({ email, reason })),
    };
  }

  private message(documentId: string, person: KnownPerson, compiled: CompiledSnapshot) {
    const { settings } = compiled.snapshot;
    const stop = `${this.origin}/site/unsubscribe?token=${this.tokens.make(person.id)}`;
    // Nobody is signed in while reading an email.
    const viewer = { ...personAsViewer(person, Date.now()), signedIn: false };
    const known = this.known.make('link', person.id, viewer.instant);
    const { subject, html, text } = compiled.email(documentId, viewer, stop, known);
    return {
      from: { name: settings.name, address: settings.fromAddress },
      to: { name: person.name === person.email ? '' : person.name, address: person.email },
      subject,
      html,
      text,
      headers: {
        'List-Unsubscribe': `<${stop}>`,
        'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
      },
    };
  }

  private async recipients(
    request: { contacts: number[]; audience: string | null },
    compiled: CompiledSnapshot,
  ): Promise<KnownPerson[]> {
    const chosen = new Map<number, KnownPerson>();
    for (const person of await this.people.find(request.contacts)) chosen.set(person.id, person);
    if (request.contacts.some((id) => !chosen.has(id))) throw notFound('contact');
    if (request.audience !== null) {
      const { snapshot } = compiled;
      const audience = snapshot.audiences.find(({ id }) => id === request.audience);
      if (!audience)
        throw new Refusal(422, 'This audience is not released yet. Release it first, then send.');
      const ids = await this.people.asks.some(
        this.people.scopeOf(snapshot),
        this.people.now('page'),
        { kind: 'audience', audience: audience.id },
        mostRecipients,
      );
      for (const person of await this.people.find(ids)) chosen.set(person.id, person);
    }
    return [...chosen.values()];
  }

  private async stopped(recipients: readonly KnownPerson[]): Promise<Set<number>> {
    const rows = await ContactRow.findAll({
      attributes: ['id', 'unsubscribedAt'],
      where: { id: recipients.map((person) => person.id) },
      raw: true,
    });
    return new Set(rows.filter((row) => row.unsubscribedAt !== null).map((row) => row.id));
  }
}
