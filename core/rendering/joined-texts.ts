interface Step {
  text: string | undefined;
  readonly next: Map<string, Step>;
}

const step = (): Step => ({ text: undefined, next: new Map() });

/**
 * Texts by the pieces they are made of, so that who gets the same as somebody before gets the very same string. Whatever is
 * looked up by it is then found without going through its characters.
 */
export class JoinedTexts {
  private first = step();
  private steps = 0;

  /** @param most of how many pieces it remembers texts at the most, all together */
  constructor(private readonly most: number) {}

  of(pieces: readonly string[]): string {
    let at = this.first;
    for (const piece of pieces) {
      let next = at.next.get(piece);
      if (!next) {
        next = step();
        at.next.set(piece, next);
        this.steps++;
      }
      at = next;
    }
    at.text ??= pieces.join('');
    const { text } = at;
    if (this.steps > this.most) {
      this.first = step();
      this.steps = 0;
    }
    return text;
  }
}
