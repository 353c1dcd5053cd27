const perBlock = 4096;

/** The texts of neighbouring ids as one, which is stored and read far quicker than as many. */
export interface TextBlock {
  /** In ascending order. */
  readonly ids: Uint32Array;
  /** A line each. */
  readonly text: string;
}

interface Block {
  /** By the place of an id in the block; undefined while nobody has asked for one of them. */
  lines: (string | undefined)[] | undefined;
  /** Undefined once one of them is another. */
  whole: TextBlock | undefined;
}

/** A line of text for each of many ids, as lines or as blocks of thousands of them, whichever was asked for. */
export class TextsById {
  private readonly blocks: (Block | undefined)[] = [];

  get(id: number): string | undefined {
    const block = this.blocks[Math.floor(id / perBlock)];
    return block && linesOf(block)[id % perBlock];
  }

  /** @param text breaks in it become spaces; undefined for none */
  set(id: number, text: string | undefined): void {
    const at = TextsById.blockOf(id);
    let block = this.blocks[at];
    if (!block) {
      block = { lines: [], whole: undefined };
      this.blocks[at] = block;
    }
    linesOf(block)[id % perBlock] = text?.replaceAll('\n', ' ');
    block.whole = undefined;
  }

  clear(): void {
    this.blocks.length = 0;
  }

  /** How many blocks there are, with or without anything in them. */
  get length(): number {
    return this.blocks.length;
  }

  static blockOf(id: number): number {
    return Math.floor(id / perBlock);
  }

  /** The first id of the block that an id is in. */
  static startOfBlock(id: number): number {
    return perBlock * TextsById.blockOf(id);
  }

  /** All texts of a block. */
  blockAt(at: number): TextBlock {
    const block = this.blocks[at];
    if (!block) return { ids: new Uint32Array(0), text: '' };
    if (block.whole) return block.whole;
    const lines = linesOf(block);
    const ids: number[] = [];
    const texts: string[] = [];
    for (let place = 0; place < lines.length; place++) {
      const line = lines[place];
      if (line === undefined) continue;
      ids.push(at * perBlock + place);
      texts.push(line);
    }
    block.whole = { ids: Uint32Array.from(ids), text: texts.join('\n') };
    return block.whole;
  }

  /** Takes the texts of a block in the place of those that it had. */
  putBlock(whole: TextBlock): void {
    const [first] = whole.ids;
    if (first !== undefined) this.blocks[TextsById.blockOf(first)] = { lines: undefined, whole };
  }
}

function linesOf(block: Block): (string | undefined)[] {
  if (block.lines) return block.lines;
  const { ids, text } = block.whole ?? { ids: new Uint32Array(0), text: '' };
  const lines: (string | undefined)[] = [];
  for (const [index, line] of text.split('\n').entries()) {
    const id = ids[index];
    if (id !== undefined) lines[id % perBlock] = line;
  }
  block.lines = lines;
  return lines;
}
