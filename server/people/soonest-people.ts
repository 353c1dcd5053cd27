import type { AsksPeople } from './questions.ts';

/**
 * Contacts that are held in memory, and the table of them from the database as long as they are not all there yet: after a
 * start, and after everything changed. Both answer alike; whoever is first is listened to.
 */
export class SoonestPeople implements AsksPeople {
  /** Whether those in memory answered since the last time that all of them had to be read. */
  private isWarm = false;
  private reads = 0;

  readonly count: AsksPeople['count'];
  readonly some: AsksPeople['some'];
  readonly changes: AsksPeople['changes'];
  readonly lacking: AsksPeople['lacking'];
  readonly values: AsksPeople['values'];
  readonly faces: AsksPeople['faces'];

  constructor(
    private readonly held: AsksPeople,
    private readonly stored: AsksPeople,
  ) {
    this.count = (...args) => held.count(...args);
    this.some = (...args) => held.some(...args);
    this.changes = (...args) => held.changes(...args);
    this.lacking = (...args) => held.lacking(...args);
    this.values = (...args) => held.values(...args);
    this.faces = (...args) => held.faces(...args);
  }

  total(): Promise<number> {
    return this.soonest((of) => of.total());
  }

  list(...args: Parameters<AsksPeople['list']>): ReturnType<AsksPeople['list']> {
    const [, , { importId }] = args;
    if (importId !== undefined) return this.stored.list(...args);
    return this.soonest((of) => of.list(...args));
  }

  async changed(ids?: readonly number[]): Promise<void> {
    if (!ids) {
      this.isWarm = false;
      this.reads++;
    }
    await this.held.changed(ids);
  }

  async stop(): Promise<void> {
    await this.held.stop();
    await this.stored.stop();
  }

  private soonest<Answer>(ask: (of: AsksPeople) => Promise<Answer>): Promise<Answer> {
    const answer = ask(this.held);
    if (this.isWarm) return answer;
    const { reads } = this;
    const noted = answer.then((found) => {
      if (reads === this.reads) this.isWarm = true;
      return found;
    });
    return Promise.any([noted, ask(this.stored)]).catch((error: unknown) => {
      throw error instanceof AggregateError ? error.errors[0] : error;
    });
  }
}
