/**
 * The answer to a question that is asked once and kept, however many wait for it. A failure is not kept: whoever asks next
 * asks anew. An answer that was being fetched when it was forgotten is given to those who wait, and to nobody after them.
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
