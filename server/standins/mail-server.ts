import type { AddressInfo } from 'node:net';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import type { ListedMessage, MessageRecord } from '../../contract/mail.ts';
import { notFound } from '../refusal.ts';
import { insertMessages, latestMessages, type MailboxRow, messageRow } from './rows.ts';

const largestMessage = 10 * 1024 * 1024;
/** How many of the latest messages a search looks through. */
const mostSearched = 5000;

/**
 * The mail server outside, simulated: takes any message by SMTP on loopback and keeps it as received, one a
 * recipient, for Mailbox to show. Nothing leaves the machine.
 */
export class MailServer {
  private readonly server: SMTPServer;

  constructor() {
    this.server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['AUTH', 'STARTTLS'],
      size: largestMessage,
      logger: false,
      onData: (stream, session, done) => {
        const chunks: Buffer[] = [];
        stream.on('data', (chunk: Buffer) => chunks.push(chunk));
        stream.on('end', () => {
          if (stream.sizeExceeded) {
            done(Object.assign(new Error('the message is too large'), { responseCode: 552 }));
            return;
          }
          const recipients = session.envelope.rcptTo.map((recipient) => recipient.address);
          keep(Buffer.concat(chunks), recipients).then(
            () => done(),
            (error: Error) => done(error),
          );
        });
      },
    });
  }

  /** Starts on a free port of loopback, which is returned. */
  async start(): Promise<number> {
    await new Promise<void>((resolve, reject) => {
      this.server.once('error', reject);
      this.server.listen(0, '127.0.0.1', resolve);
    });
    this.server.on('error', () => {});
    const address = this.server.server.address() as AddressInfo;
    return address.port;
  }

  stop(): Promise<void> {
    return new Promise((resolve) => this.server.close(() => resolve()));
  }
}

async function keep(raw: Buffer, recipients: readonly string[]): Promise<void> {
  const { subject = '' } = await simpleParser(raw, { skipHtmlToText: true, skipTextToHtml: true });
  await insertMessages(recipients.map((recipient) => ({ recipient, subject: subject.slice(0, 998), raw })));
}

export async function listMessages(search: string): Promise<ListedMessage[]> {
  const rows = await latestMessages(mostSearched);
  const wanted = search.trim().toLowerCase();
  return rows
    .filter((row) => `${row.recipient} ${row.subject}`.toLowerCase().includes(wanted))
    .slice(0, 500)
    .map(listed);
}

export async function readMessage(id: number): Promise<MessageRecord> {
  const row = await messageRow(id);
  if (!row) throw notFound('message');
  const mail = await simpleParser(row.raw, {
    skipHtmlToText: true,
    skipTextToHtml: true,
    keepCidLinks: true,
  });
  return {
    ...listed(row),
    from: mail.from?.text ?? '',
    html: mail.html || '',
    text: mail.text ?? '',
    headers: mail.headerLines.map(({ key, line }) => ({
      name: line.slice(0, key.length),
      value: line.slice(key.length + 1).trim(),
    })),
  };
}

export async function rawMessage(id: number): Promise<Buffer> {
  const row = await messageRow(id);
  if (!row) throw notFound('message');
  return row.raw;
}

function listed(row: MailboxRow): ListedMessage {
  return {
    id: row.id,
    recipient: row.recipient,
    subject: row.subject,
    receivedAt: row.createdAt.toISOString(),
  };
}
