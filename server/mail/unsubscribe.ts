import { createHmac, timingSafeEqual } from 'node:crypto';

/** Signed tokens that stop mail to one contact; they never expire, since an old email must still work. */
export class UnsubscribeTokens {
  constructor(private readonly secret: string) {}

  make(contactId: number): string {
    return `${contactId}.${this.sign(contactId)}`;
  }

  /** The contact a token was made for, or undefined for a forged or damaged one. */
  read(token: string): number | undefined {
    const found = /^(\d{1,10})\.([\w-]+)$/.exec(token);
    if (!found) return undefined;
    const contactId = Number(found[1]);
    const [given, wanted] = [Buffer.from(found[2] ?? ''), Buffer.from(this.sign(contactId))];
    return given.length === wanted.length && timingSafeEqual(given, wanted) ? contactId : undefined;
  }

  private sign(contactId: number): string {
    return createHmac('sha256', this.secret).update(`unsubscribe ${contactId}`).digest('base64url');
  }
}
