import type { RefusalBody } from '../contract/errors.ts';

/** A request that can't be done, with the status and words its sender gets. */
export class Refusal extends Error {
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 409 | 413 | 415 | 422 | 429 | 503,
    message: string,
    readonly more: Partial<Pick<RefusalBody, 'fields' | 'current'>> = {},
  ) {
    super(message);
  }
}

export function notFound(what: string): Refusal {
  return new Refusal(404, `There is no such ${what}; it may have been deleted.`);
}
