import nodemailer from 'nodemailer';
import type { DeliveryStatus } from '../../contract/mail.ts';

type Message = Parameters<ReturnType<typeof nodemailer.createTransport>['sendMail']>[0];

/** What became of a message, as far as is known. */
export interface HandedOver {
  readonly status: Extract<DeliveryStatus, 'accepted' | 'refused' | 'waiting' | 'unsure'>;
  readonly reason: string;
}

/** A connection to the mail server, kept open while there is something to hand over. */
export class HandOver {
  private readonly transport;

  /** @param smtp where mail is handed over, as an address with smtp: or smtps: */
  constructor(smtp: string) {
    this.transport = nodemailer.createTransport({ url: smtp, pool: true, maxConnections: 4 });
  }

  async give(message: Message): Promise<HandedOver> {
    try {
      await this.transport.sendMail(message);
      return { status: 'accepted', reason: '' };
    } catch (error) {
      return afterFailure(error);
    }
  }

  close(): void {
    this.transport.close();
  }
}

/**
 * What a failure says about the message (RFC 5321, 4.2.1): a reply from 500 refuses it for good, one from 400 for now. Without
 * a reply it was not told at all, or it was told and nobody knows what of it.
 */
export function afterFailure(error: unknown): HandedOver {
  const said = error instanceof Error ? error.message : String(error);
  const reason = `the mail server said: ${said}`.slice(0, 500);
  const { responseCode, command } = partsOf(error);
  if (responseCode !== undefined && responseCode >= 500) return { status: 'refused', reason };
  if (responseCode !== undefined && responseCode >= 400) return { status: 'waiting', reason };
  // Composing failed, or nobody was reached.
  if (command === 'DATA') return { status: 'unsure', reason };
  if (command === 'API') return { status: 'refused', reason };
  return { status: 'waiting', reason };
}

function partsOf(error: unknown): { responseCode?: number; command?: string } {
  if (typeof error !== 'object' || error === null) return {};
  const responseCode: unknown = Reflect.get(error, 'responseCode');
  const command: unknown = Reflect.get(error, 'command');
  return {
    ...(typeof responseCode === 'number' && { responseCode }),
    ...(typeof command === 'string' && { command }),
  };
}
