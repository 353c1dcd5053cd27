import { OutOfWork, Work } from './work.ts';

/** A node of a decision diagram, or, when negative, an outcome. */
export type Diagram = number;

const offset = 2;
/** Outcomes are whole numbers from -2 up; false and true are 0 and 1. */
export function outcome(value: number): Diagram {
  return -1 - (value + offset);
}
export function isOutcome(diagram: Diagram): boolean {
  return diagram < 0;
}
export function outcomeOf(diagram: Diagram): number {
  return -1 - diagram - offset;
}
/** Three diagrams of this many make a number that is still exact. */
const keySpan = 2 ** 17;
/** Most nodes that are kept, some hundred bytes each; beyond it memory, not time, would be short. */
const mostNodes = 1_500_000;

export const never = outcome(0);
export const always = outcome(1);

/** Neighbouring cells of a variable that go on alike, up to `end`, which is excluded. */
export interface Run {
  readonly end: number;
  readonly next: Diagram;
}

/**
 * Multi-valued decision diagrams over a fixed order of variables. A diagram maps an assignment, one cell a variable, to
 * an outcome. Equal diagrams are the same number (hash-consing), so that comparing costs nothing; what was combined once
 * is remembered. After Bryant 1986, IEEE Transactions on Computers 35(8), and Srinivasan, Kam, Malik and Brayton 1990 for
 * more than two values. The branches of a node are runs of neighbouring cells, so that a variable of thousands of cells
 * costs what its tests tell apart.
 */
export class Diagrams {
  private readonly levels: number[] = [];
  private readonly runs: (readonly Run[])[] = [];
  private readonly known = new Map<string, Diagram>();
  private readonly combined = new Map<string, Diagram>();
  private readonly chosen = new Map<number | string, Diagram>();
  private readonly met = new Map<number | string, boolean>();

  /** @param work what building may take; there is no limit unless it sets one */
  constructor(readonly work: Work = new Work()) {}

  /** The level of a node in the order of variables; past the last one for an outcome. */
  levelOf(diagram: Diagram): number {
    return isOutcome(diagram) ? Number.POSITIVE_INFINITY : (this.levels[diagram] ?? Number.POSITIVE_INFINITY);
  }

  get size(): number {
    return this.levels.length;
  }

  /** The diagram that goes on by runs of cells, in order; the last ends with the last cell. */
  node(level: number, runs: readonly Run[]): Diagram {
    const kept: Run[] = [];
    for (let at = 0; at < runs.length; at++) {
      const run = runs[at];
      if (!run) continue;
      if (kept[kept.length - 1]?.next === run.next) kept[kept.length - 1] = run;
      else kept.push(run);
    }
    const [first] = kept;
    if (kept.length === 1 && first) return first.next;
    let key = `${level}`;
    for (const { end, next } of kept) key += `,${end},${next}`;
    const found = this.known.get(key);
    if (found !== undefined) return found;
    if (this.levels.length >= mostNodes) throw new OutOfWork('this takes too much memory');
    this.work.spend(kept.length);
    const made = this.levels.push(level) - 1;
    this.runs.push(kept);
    this.known.set(key, made);
    return made;
  }

  /** The diagram that is true in some cells of a variable and false in the others. */
  cells(level: number, width: number, holds: (cell: number) => boolean): Diagram {
    const runs: Run[] = [];
    for (let cell = 0; cell < width; cell++) runs.push({ end: cell + 1, next: holds(cell) ? always : never });
    return this.node(level, runs);
  }

  /** The diagram that is true in some cells of a variable, each named. */
  some(level: number, width: number, cells: Iterable<number>): Diagram {
    const runs: Run[] = [];
    let end = 0;
    for (const cell of [...new Set(cells)].sort((left, right) => left - right)) {
      if (cell > end) runs.push({ end: cell, next: never });
      runs.push({ end: cell + 1, next: always });
      end = cell + 1;
    }
    if (end < width) runs.push({ end: width, next: never });
    return this.node(level, runs);
  }

  /** The diagram that is true from one cell of a variable to before another. */
  range(level: number, width: number, from: number, until: number): Diagram {
    if (from >= until) return never;
    return this.node(level, [
      ...(from > 0 ? [{ end: from, next: never }] : []),
      { end: until, next: always },
      ...(until < width ? [{ end: width, next: never }] : []),
    ]);
  }

  /** What a diagram becomes when a variable takes a cell; the variable must not stand below its top. */
  at(diagram: Diagram, level: number, cell: number): Diagram {
    if (this.levelOf(diagram) !== level) return diagram;
    const runs = this.runs[diagram] ?? [];
    if (runs.length <= 8) {
      for (let at = 0; at < runs.length; at++) {
        const run = runs[at];
        if (run && cell < run.end) return run.next;
      }
      return never;
    }
    let [low, high] = [0, runs.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((runs[middle]?.end ?? 0) <= cell) low = middle + 1;
      else high = middle;
    }
    return runs[low]?.next ?? never;
  }

  /** The runs of a node; none for an outcome. */
  runsOf(diagram: Diagram): readonly Run[] {
    return isOutcome(diagram) ? [] : (this.runs[diagram] ?? []);
  }

  /** `then` where `condition` is true, `otherwise` where it is false. */
  choose(condition: Diagram, then: Diagram, otherwise: Diagram): Diagram {
    if (condition === always || then === otherwise) return then;
    if (condition === never) return otherwise;
    if (then === always && otherwise === never) return condition;
    const key = this.chosenKey(condition, then, otherwise);
    const found = this.chosen.get(key);
    if (found !== undefined) return found;
    this.work.spend();
    const level = Math.min(this.levelOf(condition), this.levelOf(then), this.levelOf(otherwise));
    const [ofCondition, ofThen, ofOtherwise] = [
      this.runsAt(condition, level),
      this.runsAt(then, level),
      this.runsAt(otherwise, level),
    ];
    const runs: Run[] = [];
    let [a, b, c] = [0, 0, 0];
    for (let end = -1; ; ) {
      const [one, two, three] = [ofCondition[a], ofThen[b], ofOtherwise[c]];
      if (!one || !two || !three) break;
      end = Math.min(one.end, two.end, three.end);
      runs.push({ end, next: this.choose(one.next, two.next, three.next) });
      if (end === Number.POSITIVE_INFINITY) break;
      if (one.end === end) a++;
      if (two.end === end) b++;
      if (three.end === end) c++;
    }
    const made = this.node(level, runs);
    this.chosen.set(key, made);
    return made;
  }

  /** The runs of a diagram at a level; a single endless one where it does not depend on its variable. */
  private runsAt(diagram: Diagram, level: number): readonly Run[] {
    return this.levelOf(diagram) === level
      ? this.runsOf(diagram)
      : [{ end: Number.POSITIVE_INFINITY, next: diagram }];
  }

  /** One number for three diagrams while there are few, which is quicker to look up than a text. */
  private chosenKey(condition: Diagram, then: Diagram, otherwise: Diagram): number | string {
    const least = Math.min(condition, then, otherwise);
    if (this.levels.length >= keySpan / 2 || least < -keySpan / 2) return `${condition},${then},${otherwise}`;
    const half = keySpan / 2;
    return ((condition + half) * keySpan + (then + half)) * keySpan + (otherwise + half);
  }

  and(left: Diagram, right: Diagram): Diagram {
    return this.choose(left, right, never);
  }

  or(left: Diagram, right: Diagram): Diagram {
    return this.choose(left, always, right);
  }

  not(diagram: Diagram): Diagram {
    return this.choose(diagram, never, always);
  }

  /** Whether two diagrams are true together somewhere; no diagram of both is built for it. */
  meets(left: Diagram, right: Diagram): boolean {
    if (left === never || right === never) return false;
    if (left === always || right === always || left === right) return true;
    const [one, two] = left < right ? [left, right] : [right, left];
    const key = this.levels.length < keySpan / 2 ? one * keySpan + two : `${one},${two}`;
    const found = this.met.get(key);
    if (found !== undefined) return found;
    this.work.spend();
    const level = Math.min(this.levelOf(one), this.levelOf(two));
    const [ofOne, ofTwo] = [this.runsAt(one, level), this.runsAt(two, level)];
    let [a, b] = [0, 0];
    let meet = false;
    while (!meet) {
      const [first, second] = [ofOne[a], ofTwo[b]];
      if (!first || !second) break;
      meet = this.meets(first.next, second.next);
      const end = Math.min(first.end, second.end);
      if (first.end === end) a++;
      if (second.end === end) b++;
    }
    this.met.set(key, meet);
    return meet;
  }

  /** Whether two diagrams are never true together. */
  excludes(left: Diagram, right: Diagram): boolean {
    return !this.meets(left, right);
  }

  /** Whether a diagram is true wherever another is. */
  implies(left: Diagram, right: Diagram): boolean {
    return !this.meets(left, this.not(right));
  }

  /** True where all of some diagrams are. Halves are put together, so that many small ones stay small for long. */
  all(diagrams: readonly Diagram[]): Diagram {
    return this.joined(diagrams, always, (left, right) => this.and(left, right));
  }

  /** True where any of some diagrams is. */
  any(diagrams: readonly Diagram[]): Diagram {
    return this.joined(diagrams, never, (left, right) => this.or(left, right));
  }

  private joined(
    diagrams: readonly Diagram[],
    none: Diagram,
    join: (left: Diagram, right: Diagram) => Diagram,
  ): Diagram {
    if (diagrams.length <= 4) {
      let joined = none;
      for (const diagram of diagrams) joined = join(joined, diagram);
      return joined;
    }
    const middle = diagrams.length >> 1;
    return join(
      this.joined(diagrams.slice(0, middle), none, join),
      this.joined(diagrams.slice(middle), none, join),
    );
  }

  /** Where a diagram has an outcome: true there, false elsewhere. */
  where(diagram: Diagram, value: number): Diagram {
    return this.map(diagram, `where ${value}`, (found) => (found === value ? always : never));
  }

  /** A diagram with every outcome replaced; `name` stands for the replacement among what is remembered. */
  map(diagram: Diagram, name: string, replace: (value: number) => Diagram): Diagram {
    if (isOutcome(diagram)) return replace(outcomeOf(diagram));
    const key = `${name}|${diagram}`;
    const found = this.combined.get(key);
    if (found !== undefined) return found;
    this.work.spend();
    const runs = this.runsOf(diagram).map(({ end, next }) => ({ end, next: this.map(next, name, replace) }));
    const made = this.node(this.levelOf(diagram), runs);
    this.combined.set(key, made);
    return made;
  }

  /** A diagram with some variables fixed to a cell, by level; `name` stands for the choice among what is remembered. */
  restrict(diagram: Diagram, name: string, cellAt: (level: number) => number | undefined): Diagram {
    if (isOutcome(diagram)) return diagram;
    const key = `${name}!${diagram}`;
    const found = this.combined.get(key);
    if (found !== undefined) return found;
    this.work.spend();
    const level = this.levelOf(diagram);
    const cell = cellAt(level);
    const made =
      cell === undefined
        ? this.node(
            level,
            this.runsOf(diagram).map(({ end, next }) => ({ end, next: this.restrict(next, name, cellAt) })),
          )
        : this.restrict(this.at(diagram, level, cell), name, cellAt);
    this.combined.set(key, made);
    return made;
  }

  /** True where a diagram is true for some cell of some variables; `name` stands for which among what is remembered. */
  forSome(diagram: Diagram, name: string, isFree: (level: number) => boolean): Diagram {
    if (isOutcome(diagram)) return diagram;
    const key = `${name}?${diagram}`;
    const found = this.combined.get(key);
    if (found !== undefined) return found;
    this.work.spend();
    const level = this.levelOf(diagram);
    const runs = this.runsOf(diagram).map(({ end, next }) => ({
      end,
      next: this.forSome(next, name, isFree),
    }));
    const made = isFree(level) ? this.any(runs.map(({ next }) => next)) : this.node(level, runs);
    this.combined.set(key, made);
    return made;
  }

  /** Every outcome that a diagram can have. */
  outcomes(diagram: Diagram): Set<number> {
    const found = new Set<number>();
    for (const node of this.reachable(diagram)) if (isOutcome(node)) found.add(outcomeOf(node));
    return found;
  }

  /** Adds where the runs of a diagram end, by level. */
  endsInto(diagram: Diagram, ends: Map<number, Set<number>>): void {
    for (const node of this.reachable(diagram)) {
      if (isOutcome(node)) continue;
      const level = this.levelOf(node);
      let own = ends.get(level);
      if (!own) {
        own = new Set();
        ends.set(level, own);
      }
      for (const { end } of this.runsOf(node)) own.add(end);
    }
  }

  /** The levels of the variables that a diagram depends on. */
  support(diagram: Diagram): Set<number> {
    const found = new Set<number>();
    for (const node of this.reachable(diagram)) if (!isOutcome(node)) found.add(this.levelOf(node));
    return found;
  }

  /**
   * An assignment that makes a diagram true, as cells by level; undefined where nothing does.
   *
   * @param random gives numbers from 0 to below 1, for any of the assignments; the first one otherwise
   */
  example(diagram: Diagram, random = () => 0): Map<number, number> | undefined {
    if (diagram === never) return undefined;
    const path = new Map<number, number>();
    let node = diagram;
    while (!isOutcome(node)) {
      let start = 0;
      const open: { cell: number; width: number; next: Diagram }[] = [];
      for (const { end, next } of this.runsOf(node)) {
        if (next !== never) open.push({ cell: start, width: end - start, next });
        start = end;
      }
      // A node other than `never` has a run other than `never`, since equal runs are no node.
      const run = open[Math.floor(random() * open.length)];
      if (!run) return undefined;
      path.set(this.levelOf(node), run.cell + Math.floor(random() * run.width));
      node = run.next;
    }
    return path;
  }

  private reachable(diagram: Diagram): Set<Diagram> {
    const seen = new Set<Diagram>([diagram]);
    const open = [diagram];
    for (let node = open.pop(); node !== undefined; node = open.pop())
      for (const { next } of this.runsOf(node))
        if (!seen.has(next)) {
          seen.add(next);
          open.push(next);
        }
    return seen;
  }
}
