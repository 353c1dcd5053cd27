import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { z } from 'zod';

/** Holds what a visitor answered in forms. */
export const answersCookie = 'porch_answers';
/** How long it is kept, in seconds. */
export const answersFor = 60 * 24 * 3600;

const algorithm = 'aes-256-gcm';
const [ivLength, tagLength] = [12, 16];
/** Longest text that browsers keep as a cookie, with its name (RFC 6265, 6.1). */
const longest = 3900;

const answersSchema = z.object({
  email: z.string(),
  values: z.record(z.string(), z.unknown()),
  /** The contact that these answers made; zeros where they were added to one that was there. Of one length, so that none can be told from the other. */
  made: z.string().regex(/^\d{10}$/),
  expires: z.number(),
});

export interface VisitorAnswers {
  readonly email: string;
  readonly values: { readonly [attribute: string]: unknown };
  /** The contact that the answers made; undefined where they belong to one that was there before. */
  readonly made: number | undefined;
}

/**
 * What visitors answered, sealed so that only this server can read it: what they see next is decided by their own answers,
 * whether or not somebody with that address is known already, and nothing tells them which.
 */
export class SealedAnswers {
  private readonly key: Buffer;

  constructor(secret: string) {
    this.key = createHash('sha256').update(`answers ${secret}`).digest();
  }

  /** @param now in milliseconds since 1970 UTC */
  seal({ email, values, made }: VisitorAnswers, now: number): string {
    const expires = Math.floor(now / 1000) + answersFor;
    const kept = Object.entries(values);
    for (;;) {
      const text = JSON.stringify({
        email,
        values: Object.fromEntries(kept),
        made: String(made ?? 0).padStart(10, '0'),
        expires,
      });
      const iv = randomBytes(ivLength);
      const cipher = createCipheriv(algorithm, this.key, iv);
      const sealed = Buffer.concat([iv, cipher.update(text, 'utf8'), cipher.final(), cipher.getAuthTag()]);
      const written = sealed.toString('base64url');
      if (written.length <= longest || kept.length === 0) return written;
      // What is longest decides least.
      const lengths = kept.map(([, value]) => JSON.stringify(value).length);
      kept.splice(lengths.indexOf(Math.max(...lengths)), 1);
    }
  }

  /** What was sealed; undefined for what nobody here sealed, or too long ago. */
  open(written: string | undefined, now: number): VisitorAnswers | undefined {
    if (!written || written.length > 2 * longest) return undefined;
    const sealed = Buffer.from(written, 'base64url');
    if (sealed.length < ivLength + tagLength) return undefined;
    try {
      const cipher = createDecipheriv(algorithm, this.key, sealed.subarray(0, ivLength), {
        authTagLength: tagLength,
      });
      cipher.setAuthTag(sealed.subarray(-tagLength));
      const text =
        cipher.update(sealed.subarray(ivLength, -tagLength), undefined, 'utf8') + cipher.final('utf8');
      const { email, values, made, expires } = answersSchema.parse(JSON.parse(text));
      return expires * 1000 > now ? { email, values, made: Number(made) || undefined } : undefined;
    } catch {
      return undefined;
    }
  }
}
