import { createHmac, timingSafeEqual } from 'node:crypto';

const day = 24 * 3600;
/** How long a link from an email says who comes, in seconds. */
export const knownFor = 60 * day;

/** What a token is for: a link in a message, or a decision that another site's own server lets a browser ask for. */
export type TokenUse = 'link' | 'decision';

/** Signed tokens that say which contact comes, for a time and for one use; for any other use they are none. */
export class KnownTokens {
  constructor(private readonly secret: string) {}

  /** @param now in milliseconds since 1970 UTC */
  make(use: TokenUse, contactId: number, now: number, seconds = knownFor): string {
    const expires = Math.floor(now / 1000) + seconds;
    return `${contactId}.${expires}.${this.sign(use, contactId, expires)}`;
  }

  /** The contact a token was made for, or undefined for one that is forged, damaged, too old or for another use. */
  read(use: TokenUse, token: string | undefined, now: number): number | undefined {
    const found = /^(\d{1,10})\.(\d{1,11})\.([\w-]{43})$/.exec(token ?? '');
    if (!found) return undefined;
    const [contactId, expires] = [Number(found[1]), Number(found[2])];
    const [given, wanted] = [Buffer.from(found[3] ?? ''), Buffer.from(this.sign(use, contactId, expires))];
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return undefined;
    return expires * 1000 > now ? contactId : undefined;
  }

  private sign(use: TokenUse, contactId: number, expires: number): string {
    return createHmac('sha256', this.secret).update(`${use} ${contactId} ${expires}`).digest('base64url');
  }
}
