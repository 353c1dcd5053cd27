import type { Request } from 'express';
import type { SessionData } from 'express-session';

/**
 * Begins a session under a new id, so that one planted before sign-in is worth nothing, and stores it before anything
 * is answered: a browser follows a redirect as soon as its head arrives.
 */
export async function beginSession(request: Request, data: Partial<SessionData>): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    request.session.regenerate((error) => (error ? reject(error) : resolve()));
  });
  Object.assign(request.session, data);
  await new Promise<void>((resolve, reject) => {
    request.session.save((error) => (error ? reject(error) : resolve()));
  });
}
