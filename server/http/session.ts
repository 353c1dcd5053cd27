import { Router } from 'express';
import rateLimit from 'express-rate-limit';
import { type Session, signInSchema } from '../../contract/session.ts';
import { demoAccount } from '../../demo/scenario.ts';
import { Refusal } from '../refusal.ts';
import { findAccount } from '../services/accounts.ts';
import { beginSession } from './new-session.ts';
import { parse } from './parse.ts';

/** Slows down guessing: so many failed sign-ins in a minute from one address. */
export const signInLimit = () =>
  rateLimit({
    windowMs: 60_000,
    limit: 20,
    skipSuccessfulRequests: true,
    requestWasSuccessful: (_request, response) => response.statusCode !== 401,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_request, _response, next) =>
      next(new Refusal(429, 'Too many attempts. Wait a minute, then try again.')),
  });

export function sessionRouter(demo: boolean): Router {
  const router = Router();
  router.get('/', (request, response) => {
    const { account } = request.session;
    const body: Session = {
      account: account ? { email: account.email, name: account.name } : null,
      demo: demo && !account ? { email: demoAccount.email, password: demoAccount.password } : null,
    };
    response.json(body);
  });
  router.post('/', signInLimit(), async (request, response) => {
    const { email, password } = parse(signInSchema, request.body);
    const account = await findAccount(email, password);
    if (!account) throw new Refusal(401, 'This email and password do not fit together.');
    await beginSession(request, {
      account: { id: account.id, email: account.email, name: account.name },
    });
    const body: Session = { account: { email: account.email, name: account.name }, demo: null };
    response.json(body);
  });
  router.delete('/', async (request, response) => {
    await new Promise<void>((resolve, reject) => {
      request.session.destroy((error) => (error ? reject(error) : resolve()));
    });
    response.status(204).end();
  });
  return router;
}
