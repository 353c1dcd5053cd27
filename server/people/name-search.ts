const perPart = 4096;

interface Part {
  /** Folded names and addresses, one after another with a line break between. */
  readonly text: string;
  readonly ids: readonly number[];
  /** Where each begins in the text. */
  readonly starts: Uint32Array;
}

/**
 * Finds contacts by a part of their name or address. Thousands of names lie in one string, which is gone through far
 * quicker than as many strings; those whose contacts changed are put together again when they are next asked.
 */
export class NameSearch {
  private readonly names: (string | undefined)[] = [];
  private readonly parts: (Part | undefined)[] = [];

  /** @param folded name and address, case and accents folded; undefined for one who is gone */
  set(id: number, folded: string | undefined): void {
    this.names[id] = folded?.replaceAll('\n', ' ');
    this.parts[Math.floor(id / perPart)] = undefined;
  }

  /** What a contact is found by. */
  textOf(id: number): string | undefined {
    return this.names[id];
  }

  clear(): void {
    this.names.length = 0;
    this.parts.length = 0;
  }

  /** The ids of those that hold a folded text, which is not empty, in ascending order. */
  find(asked: string): number[] {
    const wanted = asked.replaceAll('\n', ' ');
    const found: number[] = [];
    for (let at = 0; at * perPart < this.names.length; at++) {
      const { text, ids, starts } = this.part(at);
      let index = 0;
      for (
        let place = text.indexOf(wanted);
        place >= 0;
        place = text.indexOf(wanted, starts[index] ?? text.length)
      ) {
        while (index < ids.length && (starts[index] ?? 0) <= place) index++;
        found.push(ids[index - 1] ?? 0);
        if (index >= ids.length) break;
      }
    }
    return found;
  }

  private part(at: number): Part {
    const known = this.parts[at];
    if (known) return known;
    const ids: number[] = [];
    const texts: string[] = [];
    const end = Math.min(this.names.length, (at + 1) * perPart);
    for (let id = at * perPart; id < end; id++) {
      const name = this.names[id];
      if (name === undefined) continue;
      ids.push(id);
      texts.push(name);
    }
    const starts = new Uint32Array(ids.length);
    let start = 0;
    for (const [index, text] of texts.entries()) {
      starts[index] = start;
      start += text.length + 1;
    }
    const part = { text: texts.join('\n'), ids, starts };
    this.parts[at] = part;
    return part;
  }
}
