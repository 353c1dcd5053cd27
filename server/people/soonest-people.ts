import type { AsksPeople } from './questions.ts';

/** Where more than this is counted at once, the database would take longer than those in memory take to be there. */
const mostCounted = 4;

/**
 * Contacts that are held in memory, and the database as long as they are not all there yet: after a start, and after
 * everything changed. Both answer alike; whoever is first is listened to.
 */
export class SoonestPeople implements AsksPeople {
  /** Whether those in memory answered since the last time that all of them had to be read. */
  private isWarm = false;
  private reads = 0;

  /** @param onRead called when those in memory are all there, after a start and after everything changed */
  constructor(
    private readonly held: AsksPeople,
    private readonly stored: AsksPeople,
    private readonly onRead: () => void = () => undefined,
  ) {}

  /** Asked in memory only: the database would pick other people. */
  readonly some: AsksPeople['some'] = (...args) => this.ofHeld((of) => of.some(...args));
  readonly changes: AsksPeople['changes'] = (...args) => this.ofHeld((of) => of.changes(...args));
  readonly lacking: AsksPeople['lacking'] = (...args) => this.ofHeld((of) => of.lacking(...args));
  readonly values: AsksPeople['values'] = (...args) => this.ofHeld((of) => of.values(...args));
  readonly faces: AsksPeople['faces'] = (...args) => this.ofHeld((of) => of.faces(...args));

  readonly count: AsksPeople['count'] = (scope, setting, conditions) =>
    conditions.length > mostCounted
      ? this.ofHeld((of) => of.count(scope, setting, conditions))
      : this.soonest((of) => of.count(scope, setting, conditions));

  total(): Promise<number> {
    return this.soonest((of) => of.total());
  }

  list(...args: Parameters<AsksPeople['list']>): ReturnType<AsksPeople['list']> {
    const [, , { importId }] = args;
    if (importId !== undefined) return this.stored.list(...args);
    return this.soonest((of) => of.list(...args));
  }

  /**
   * Those in memory take in what changed before anything that they are asked after this. Where they are not there yet,
   * nobody waits for them: the database, which answers until then, knows it already.
   */
  async changed(ids?: readonly number[]): Promise<void> {
    if (!ids) {
      this.isWarm = false;
      this.reads++;
    }
    const taken = this.held.changed(ids);
    if (this.isWarm || !ids) await taken;
    else taken.catch(() => this.changed()).catch(() => undefined);
  }

  /** What is not there yet has nothing to keep, and is not waited for. */
  async keep(position: number): Promise<boolean> {
    return this.isWarm && (await this.held.keep(position));
  }

  async stop(): Promise<void> {
    await this.held.stop();
    await this.stored.stop();
  }

  private ofHeld<Answer>(ask: (of: AsksPeople) => Promise<Answer>): Promise<Answer> {
    const { reads } = this;
    return ask(this.held).then((found) => {
      if (reads === this.reads && !this.isWarm) {
        this.isWarm = true;
        this.onRead();
      }
      return found;
    });
  }

  private soonest<Answer>(ask: (of: AsksPeople) => Promise<Answer>): Promise<Answer> {
    const answer = this.ofHeld(ask);
    if (this.isWarm) return answer;
    return Promise.any([answer, ask(this.stored)]).catch((error: unknown) => {
      throw error instanceof AggregateError ? error.errors[0] : error;
    });
  }
}
