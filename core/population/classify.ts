import { faceKey, visibilityOf } from '../analysis/faces.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { audiencesOf, type Content, slotsOf } from '../documents/document.ts';
import type { Bits } from './bits.ts';
import type { Asking, Population } from './population.ts';

/** One kind of contacts: those who are in the same ones of some audiences. */
export interface Kind {
  /** For each audience, in the order they were given, whether these contacts are in it. */
  readonly isIn: (audience: number) => boolean;
  readonly count: number;
  /** The row of the first of them. */
  readonly first: number;
}

/**
 * All contacts by which of some audiences they are in. The bits are turned, 32 rows of 32 audiences at a time (Warren
 * 2012, Hacker's Delight, section 7-3), so that each contact has one word for 32 audiences, and equal words are counted.
 */
export function kindsOf(members: readonly Bits[], everybody: Bits): Kind[] {
  const chunks = Math.max(1, Math.ceil(members.length / 32));
  const table = new KindTable(chunks);
  const block = new Int32Array(32);
  /** 32 rows of as many words as there are chunks. */
  const turned = new Int32Array(32 * chunks);
  for (let word = 0; word < everybody.length; word++) {
    const alive = everybody[word] ?? 0;
    if (alive === 0) continue;
    for (let chunk = 0; chunk < chunks; chunk++) {
      const from = 32 * chunk;
      const width = Math.min(32, members.length - from);
      block.fill(0);
      for (let at = 0; at < width; at++) block[31 - at] = members[from + at]?.[word] ?? 0;
      transpose(block);
      for (let bit = 0; bit < 32; bit++) turned[bit * chunks + chunk] = block[31 - bit] ?? 0;
    }
    table.add(turned, alive, 32 * word);
  }
  return table.kinds();
}

/** Turns a matrix of 32 by 32 bits about its diagonal. */
function transpose(block: Int32Array): void {
  let mask = 0x0000ffff;
  for (let step = 16; step !== 0; step >>>= 1, mask ^= mask << step)
    for (let at = 0; at < 32; at = (at + step + 1) & ~step) {
      const high = block[at] ?? 0;
      const low = block[at + step] ?? 0;
      const swapped = (high ^ (low >>> step)) & mask;
      block[at] = high ^ swapped;
      block[at + step] = low ^ (swapped << step);
    }
}

/** Counts of equal rows of words, by open addressing. */
class KindTable {
  private size = 1024;
  private places = new Int32Array(this.size).fill(-1);
  private words: Int32Array;
  private counts = new Int32Array(256);
  private firsts = new Int32Array(256);
  private length = 0;

  constructor(private readonly chunks: number) {
    this.words = new Int32Array(256 * chunks);
  }

  /**
   * Counts up to 32 rows.
   *
   * @param turned the words of each row, one row after another
   * @param alive the rows that count, as bits
   * @param first the number of the first row
   */
  add(turned: Int32Array, alive: number, first: number): void {
    const { chunks, counts } = this;
    let places = this.places;
    let words = this.words;
    let size = this.size;
    for (let bit = 0; bit < 32; bit++) {
      if (((alive >>> bit) & 1) === 0) continue;
      const from = bit * chunks;
      let hash = 0;
      for (let chunk = 0; chunk < chunks; chunk++) {
        hash = Math.imul(hash ^ (turned[from + chunk] ?? 0), 0x9e3779b1);
        hash ^= hash >>> 15;
      }
      let place = hash & (size - 1);
      let kind = places[place] ?? -1;
      while (kind >= 0) {
        const own = kind * chunks;
        let chunk = 0;
        while (chunk < chunks && words[own + chunk] === turned[from + chunk]) chunk++;
        if (chunk === chunks) break;
        place = (place + 1) & (size - 1);
        kind = places[place] ?? -1;
      }
      if (kind >= 0) counts[kind] = (counts[kind] ?? 0) + 1;
      else {
        places[place] = this.append(turned, from, first + bit);
        if (this.length * 2 > size) this.rehash();
        places = this.places;
        words = this.words;
        size = this.size;
        // A new kind may have moved the counts to a larger array.
        if (this.counts !== counts) {
          this.add(turned, alive & ~(2 ** (bit + 1) - 1), first);
          return;
        }
      }
    }
  }

  kinds(): Kind[] {
    const { words, chunks } = this;
    return Array.from({ length: this.length }, (_, kind) => ({
      isIn: (audience: number) =>
        (((words[kind * chunks + (audience >>> 5)] ?? 0) >>> (audience & 31)) & 1) === 1,
      count: this.counts[kind] ?? 0,
      first: this.firsts[kind] ?? 0,
    }));
  }

  private placeFor(turned: Int32Array, from: number): number {
    let hash = 0;
    for (let chunk = 0; chunk < this.chunks; chunk++) {
      hash = Math.imul(hash ^ (turned[from + chunk] ?? 0), 0x9e3779b1);
      hash ^= hash >>> 15;
    }
    return hash & (this.size - 1);
  }

  private append(turned: Int32Array, from: number, row: number): number {
    if (this.length === this.counts.length) {
      const room = 2 * this.length;
      const [words, counts, firsts] = [
        new Int32Array(room * this.chunks),
        new Int32Array(room),
        new Int32Array(room),
      ];
      words.set(this.words);
      counts.set(this.counts);
      firsts.set(this.firsts);
      [this.words, this.counts, this.firsts] = [words, counts, firsts];
    }
    this.words.set(turned.subarray(from, from + this.chunks), this.length * this.chunks);
    this.firsts[this.length] = row;
    this.counts[this.length] = 1;
    return this.length++;
  }

  private rehash(): void {
    this.size *= 4;
    this.places = new Int32Array(this.size).fill(-1);
    for (let kind = 0; kind < this.length; kind++) {
      let place = this.placeFor(this.words, kind * this.chunks);
      while ((this.places[place] ?? -1) >= 0) place = (place + 1) & (this.size - 1);
      this.places[place] = kind;
    }
  }
}

/** One face as contacts get it today. */
export interface FaceCount {
  /** For each slot in reading order the variant shown, everyone else, or hidden. */
  readonly choices: number[];
  readonly count: number;
  /** The id of a contact who gets it. */
  readonly contact: number;
}

/** The faces of a document that contacts get, with how many; largest first. */
export function classify(content: Content, population: Population, asking: Asking): FaceCount[] {
  const ids = [...audiencesOf(content)];
  const place = new Map(ids.map((id, index) => [id, index]));
  const slots = slotsOf(content).map((slot) =>
    slot.variants.map(({ audience }) => place.get(audience) ?? -1),
  );
  const visible = visibilityOf(content);
  const faces = new Map<string, { choices: number[]; count: number; contact: number }>();
  for (const kind of kindsOf(
    ids.map((id) => asking.audience(id)),
    population.everybody,
  )) {
    const choices = visible(
      slots.map((audiences) => {
        const first = audiences.findIndex((audience) => kind.isIn(audience));
        return first < 0 ? everyoneElse : first;
      }),
    );
    const face = faces.get(faceKey(choices));
    if (face) face.count += kind.count;
    else faces.set(faceKey(choices), { choices, count: kind.count, contact: population.idAt(kind.first) });
  }
  return [...faces.values()].sort((left, right) => right.count - left.count);
}
