import { everyoneElse } from '../deciding/decide.ts';
import { visibilityOf } from '../deciding/visibility.ts';
import { type Content, listsOf, type Node, regionNames, slotsOf } from '../documents/document.ts';
import type { Bits } from './bits.ts';
import { evaluator } from './expression.ts';
import type { Asking, Population } from './population.ts';

/** Contacts by kind: those of one kind are in the same ones of some sets. */
export interface Kinds {
  readonly length: number;
  /** How many contacts are of each kind. */
  readonly counts: Int32Array;
  /** The row of the first contact of each kind. */
  readonly firsts: Int32Array;
  /** The sets that each kind is in, as bits: so many words a kind, the first set being the lowest bit of the first word. */
  readonly words: Int32Array;
  readonly wordsPerKind: number;
}

/**
 * All contacts by which of some sets they are in. The bits are turned, 32 rows of 32 sets at a time (Warren 2012, Hacker's
 * Delight, section 7-3), so that each contact has one word for 32 sets, and equal words are counted.
 */
export function kindsOf(members: readonly Bits[], everybody: Bits): Kinds {
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

  kinds(): Kinds {
    const { length, counts, firsts, words, chunks } = this;
    return { length, counts, firsts, words, wordsPerKind: chunks };
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

/** A slot with its choices written in binary: each place of the number is the bits of the rows that have it set. */
interface CodedSlot {
  readonly places: Bits[];
  /** Of the places of all slots, which is this one's first. */
  readonly from: number;
}

/**
 * For each slot in reading order, which choice each row gets: 0 for everyone else or hidden, otherwise one more than the
 * variant. Where an outer slot shows another variant, the outer choice tells that this one is hidden.
 */
function codedSlots(content: Content, population: Population, asking: Asking): CodedSlot[] {
  const found = new Map<string, Bits[]>();
  const walk = (nodes: readonly Node[], visible: Bits): void => {
    for (const node of nodes) {
      if (node.kind !== 'slot') {
        for (const list of listsOf(node)) walk(list, visible);
        continue;
      }
      const rest = visible.slice();
      const places = Array.from(
        { length: 32 - Math.clz32(node.variants.length) },
        () => new Int32Array(rest.length),
      );
      found.set(node.id, places);
      for (const [index, { audience, content: inner }] of node.variants.entries()) {
        const own = rest.slice();
        evaluator.join(own, asking.audience(audience), 'and');
        evaluator.join(rest, own, 'andNot');
        for (const [at, place] of places.entries())
          if ((((index + 1) >>> at) & 1) === 1) evaluator.join(place, own, 'or');
        walk(inner, own);
      }
      walk(node.otherwise, rest);
    }
  };
  for (const region of regionNames) walk(content[region], population.everybody);
  let from = 0;
  return slotsOf(content).map(({ id }) => {
    const places = found.get(id) ?? [];
    from += places.length;
    return { places, from: from - places.length };
  });
}

/** The faces of a document that contacts get, with how many; largest first. */
export function classify(content: Content, population: Population, asking: Asking): FaceCount[] {
  const slots = codedSlots(content, population, asking);
  const visible = visibilityOf(content);
  const { length, counts, firsts, words, wordsPerKind } = kindsOf(
    slots.flatMap(({ places }) => places),
    population.everybody,
  );
  const choices = new Int32Array(slots.length);
  const faces: FaceCount[] = [];
  for (let kind = 0; kind < length; kind++) {
    let slot = 0;
    for (const { places, from } of slots) {
      let code = 0;
      for (let at = from; at < from + places.length; at++)
        code |= (((words[kind * wordsPerKind + (at >>> 5)] ?? 0) >>> (at & 31)) & 1) << (at - from);
      choices[slot++] = code === 0 ? everyoneElse : code - 1;
    }
    faces.push({
      choices: visible(choices),
      count: counts[kind] ?? 0,
      contact: population.idAt(firsts[kind] ?? 0),
    });
  }
  return faces.sort((left, right) => right.count - left.count);
}
