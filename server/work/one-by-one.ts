/** Runs tasks one after another, first in, first out; a task that fails does not stop the others. */
export class OneByOne {
  private last: Promise<unknown> = Promise.resolve();

  /** Runs a task after all tasks before it. */
  after<Result>(work: () => Promise<Result>): Promise<Result> {
    const done = this.last.then(work, work);
    this.last = done.catch(() => undefined);
    return done;
  }
}
