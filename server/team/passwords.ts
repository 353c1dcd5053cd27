import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { KeptAnswer } from '../work/kept-answer.ts';

const cost = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 1024 * 1024 };
const keyLength = 32;

/** A salted scrypt hash (RFC 7914) with its parameters, as `scrypt$N$r$p$salt$key`. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const key = await derive(password, salt, cost);
  return ['scrypt', cost.N, cost.r, cost.p, salt.toString('base64'), key.toString('base64')].join('$');
}

/** Whether a password is the one of a hash. An unreadable hash matches nothing. */
export async function verifyPassword(password: string, stored: string): Promise<boolean> {
  const [name, N, r, p, salt, key] = stored.split('$');
  if (name !== 'scrypt' || !salt || !key) return false;
  const wanted = Buffer.from(key, 'base64');
  const given = await derive(password, Buffer.from(salt, 'base64'), {
    N: Number(N),
    r: Number(r),
    p: Number(p),
    maxmem: cost.maxmem,
  });
  return wanted.length === given.length && timingSafeEqual(wanted, given);
}

/** Verified against when there is no such account, so that the answer takes as long. */
const nobody = new KeptAnswer(() => hashPassword(randomBytes(16).toString('hex')));
export async function verifyNobody(password: string): Promise<false> {
  await verifyPassword(password, await nobody.get());
  return false;
}

function derive(password: string, salt: Buffer, options: typeof cost): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    scrypt(password.normalize('NFKC'), salt, keyLength, options, (error, key) =>
      error ? reject(error) : resolve(key),
    );
  });
}
