import { type Request, Router } from 'express';
import rateLimit from 'express-rate-limit';
import { firstStartSchema } from '../../contract/first-start.ts';
import type { Session } from '../../contract/session.ts';
import { signInSchema } from '../../contract/sign-in.ts';
import type { SharedCounts } from '../http/limit-rows.ts';
import { parse } from '../http/parse.ts';
import { Refusal } from '../refusal.ts';
import { findAccount } from './accounts.ts';
import { FirstStarts } from './first-start.ts';
import { beginSession } from './new-session.ts';
import type { AccountRow } from './rows.ts';

/** Slows down guessing: so many failed sign-ins in a minute from one address. */
export const signInLimit = (counts: SharedCounts, where: string) =>
  rateLimit({
    store: counts.storeOf(`sign-in ${where}`),
    windowMs: 60_000,
    limit: 20,
    skipSuccessfulRequests: true,
    requestWasSuccessful: (_request, response) => response.statusCode !== 401,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_request, _response, next) =>
      next(new Refusal(429, 'Too many attempts. Wait a minute, then try again.')),
  });

/** Tells who is signed in, and whoever is not how they can be. */
export class Door {
  readonly firstStarts = new FirstStarts();

  /** @param toTry the account that anybody may sign in with, on an instance that is there to be tried */
  constructor(private readonly toTry: { readonly email: string; readonly password: string } | undefined) {}

  async tell({ session: { account } }: Request): Promise<Session> {
    return {
      account: account ? { email: account.email, name: account.name } : null,
      demo: this.toTry && !account ? { email: this.toTry.email, password: this.toTry.password } : null,
      firstStart: !account && (await this.firstStarts.isDue()),
    };
  }
}

export function sessionRouter(door: Door, counts: SharedCounts): Router {
  const router = Router();
  const signIn = async (request: Request, { id, email, name }: AccountRow): Promise<Session> => {
    await beginSession(request, { account: { id, email, name } });
    return { account: { email, name }, demo: null, firstStart: false };
  };
  router.get('/', async (request, response) => {
    response.json(await door.tell(request));
  });
  router.post('/', signInLimit(counts, 'studio'), async (request, response) => {
    const { email, password } = parse(signInSchema, request.body);
    const account = await findAccount(email, password);
    if (!account) throw new Refusal(401, 'This email and password don’t match.');
    response.json(await signIn(request, account));
  });
  router.post('/first', signInLimit(counts, 'first start'), async (request, response) => {
    const asked = parse(firstStartSchema, request.body);
    response.status(201).json(await signIn(request, await door.firstStarts.begin(asked)));
  });
  router.delete('/', async (request, response) => {
    await new Promise<void>((resolve, reject) => {
      request.session.destroy((error) => (error ? reject(error) : resolve()));
    });
    response.status(204).end();
  });
  return router;
}
