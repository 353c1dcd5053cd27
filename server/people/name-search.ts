import { type TextBlock, TextsById } from './texts-by-id.ts';

/**
 * Finds contacts by a part of their name or address. Thousands of names lie in one string, which is gone through far
 * quicker than as many strings; those whose contacts changed are put together again when they are next asked.
 */
export class NameSearch {
  /** Folded names and addresses. */
  readonly texts = new TextsById();
  /** Where each begins in the text of its block. */
  private readonly starts: (Uint32Array | undefined)[] = [];

  /** @param folded name and address, case and accents folded; undefined for one who is gone */
  set(id: number, folded: string | undefined): void {
    this.texts.set(id, folded);
    this.starts[TextsById.blockOf(id)] = undefined;
  }

  /** Takes the texts of a block in the place of those that it had. */
  putBlock(found: TextBlock): void {
    const [first] = found.ids;
    if (first === undefined) return;
    this.texts.putBlock(found);
    this.starts[TextsById.blockOf(first)] = undefined;
  }

  clear(): void {
    this.texts.clear();
    this.starts.length = 0;
  }

  /** The ids of those that hold a folded text, which is not empty, in ascending order. */
  find(asked: string): number[] {
    const wanted = asked.replaceAll('\n', ' ');
    const found: number[] = [];
    for (let at = 0; at < this.texts.length; at++) {
      const { text, ids } = this.texts.blockAt(at);
      let place = text.indexOf(wanted);
      if (place < 0) continue;
      const starts = this.startsOf(at, text, ids.length);
      for (let index = 0; place >= 0; place = text.indexOf(wanted, starts[index] ?? text.length)) {
        while (index < ids.length && (starts[index] ?? 0) <= place) index++;
        found.push(ids[index - 1] ?? 0);
        if (index >= ids.length) break;
      }
    }
    return found;
  }

  private startsOf(at: number, text: string, lines: number): Uint32Array {
    const known = this.starts[at];
    if (known) return known;
    const starts = new Uint32Array(lines);
    let start = 0;
    for (let line = 1; line < lines; line++) {
      start = text.indexOf('\n', start) + 1;
      starts[line] = start;
    }
    this.starts[at] = starts;
    return starts;
  }
}
