/** Work that is done one after another, in the order in which it came; what fails keeps nothing else from being done. */
export class OneByOne {
  private last: Promise<unknown> = Promise.resolve();

  /** Does something once everything before it is done. */
  after<Result>(work: () => Promise<Result>): Promise<Result> {
    const done = this.last.then(work, work);
    this.last = done.catch(() => undefined);
    return done;
  }
}
