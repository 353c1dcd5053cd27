/**
 * Caches the result of an asynchronous query and shares one pending query among all callers. A failure is not cached. A
 * result that was pending when the cache was invalidated goes to its callers only and is not cached either.
 */
export class KeptAnswer<Answer> {
  private asked: Promise<Answer> | undefined;

  constructor(private readonly ask: () => Promise<Answer>) {}

  get(): Promise<Answer> {
    if (this.asked) return this.asked;
    const asked = this.ask();
    this.asked = asked;
    asked.catch(() => {
      if (this.asked === asked) this.asked = undefined;
    });
    return asked;
  }

  forget(): void {
    this.asked = undefined;
  }
}
