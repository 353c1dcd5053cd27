interface Step {
  text: string | undefined;
  readonly next: Map<string, Step>;
}

/** What a step takes in memory, roughly; most of it is its map. */
const bytesAStep = 300;
const bytesACharacter = 2;

const step = (): Step => ({ text: undefined, next: new Map() });

/**
 * Joins pieces to texts, and gives the very same string for the same pieces. Whatever is looked up by that string is then
 * found without going through its characters.
 */
export class JoinedTexts {
  private first = step();
  private taken = 0;

  /** @param most about how many bytes it may take in memory; beyond that it forgets all texts and begins again */
  constructor(private readonly most: number) {}

  of(pieces: readonly string[]): string {
    let at = this.first;
    for (const piece of pieces) {
      let next = at.next.get(piece);
      if (!next) {
        next = step();
        at.next.set(piece, next);
        this.taken += bytesAStep;
      }
      at = next;
    }
    if (at.text !== undefined) return at.text;
    const text = pieces.join('');
    at.text = text;
    this.taken += bytesACharacter * text.length;
    if (this.taken > this.most) {
      this.first = step();
      this.taken = 0;
    }
    return text;
  }
}
