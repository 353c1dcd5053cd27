import { everyoneElse } from '../deciding/decide.ts';
import {
  always,
  type Diagram,
  type Diagrams,
  isOutcome,
  never,
  outcome,
  outcomeOf,
} from './diagrams/diagrams.ts';

/** Most combinations that are listed, and most steps of working them out. */
export const mostFaces = 1500;
const mostSteps = 400_000;
const fewEnough = 20_000;

/** A text for a tuple of diagrams, one character each while they are few. */
export function tupleKey(tuple: readonly Diagram[]): string {
  for (const diagram of tuple) if (diagram < -0x8000 || diagram >= 0x8000) return tuple.join();
  return String.fromCharCode(...tuple.map(shifted));
}

function shifted(diagram: Diagram): number {
  return diagram + 0x8000;
}

/** How many assignments there are to the variables that a tuple depends on, of cells that it does not take alike. */
function assignments(tuple: readonly Diagram[], diagrams: Diagrams): number {
  const ends = new Map<number, Set<number>>();
  for (const diagram of tuple) diagrams.endsInto(diagram, ends);
  let product = 1;
  for (const own of ends.values()) product *= own.size;
  return product;
}

/** The runs of several diagrams at a level put together: stretches of cells that none of them tells apart. */
function* stretches(
  tuple: readonly Diagram[],
  level: number,
  diagrams: Diagrams,
): Generator<{ cell: number; next: Diagram[] }> {
  const places = tuple.map(() => 0);
  const runs = tuple.map((diagram) =>
    diagrams.levelOf(diagram) === level ? diagrams.runsOf(diagram) : undefined,
  );
  for (let cell = 0; ; ) {
    let end = Number.POSITIVE_INFINITY;
    const next: Diagram[] = [];
    for (let at = 0; at < tuple.length; at++) {
      const own = runs[at];
      if (!own) {
        next.push(tuple[at] ?? never);
        continue;
      }
      const run = own[places[at] ?? 0];
      if (!run) return;
      next.push(run.next);
      if (run.end < end) end = run.end;
    }
    yield { cell, next };
    for (let at = 0; at < tuple.length; at++)
      if (runs[at]?.[places[at] ?? 0]?.end === end) places[at] = (places[at] ?? 0) + 1;
    cell = end;
  }
}

function topOf(tuple: readonly Diagram[], diagrams: Diagrams): number {
  let level = Number.POSITIVE_INFINITY;
  for (const diagram of tuple) level = Math.min(level, diagrams.levelOf(diagram));
  return level;
}

/** The leaf of a joint diagram for viewers outside the guard. */
const nobody = outcome(-1);

/**
 * The combinations of outcomes that several diagrams have together. The tuple of diagrams is expanded from the top,
 * each tuple once, into one joint diagram whose outcomes stand for combinations.
 */
export class Joint {
  complete = true;
  private readonly nodes = new Map<string, Diagram>();
  private readonly levels: number[] = [];
  /** The branches of each node of the joint diagram, with the first cell of each. */
  private readonly branches: { cell: number; next: Diagram }[][] = [];
  private readonly unique = new Map<string, Diagram>();
  private readonly found: number[][] = [];
  private readonly foundByKey = new Map<string, Diagram>();
  /** For each combination that was found by going through assignments, the one that led to it. */
  private readonly paths: (readonly (readonly [level: number, cell: number])[])[] = [];
  /** For each member, the place of its diagram among the different ones. */
  private readonly placeOf: readonly number[];
  private readonly root: Diagram;
  private readonly reachedBy = new Map<Diagram, { from: Diagram; cell: number } | undefined>();

  /**
   * @param guard only viewers in it count
   * @param fewAssignments up to so many are gone through one by one
   */
  constructor(
    private readonly diagrams: Diagrams,
    roots: readonly Diagram[],
    readonly members: readonly number[],
    guard: Diagram,
    fewAssignments = fewEnough,
  ) {
    const different = [...new Set(roots)];
    this.placeOf = roots.map((root) => different.indexOf(root));
    const tuple = [guard, ...different];
    this.root = nobody;
    // Few assignments are quicker to go through one by one than to look up what is alike among them.
    if (assignments(tuple, diagrams) <= fewAssignments) this.enumerate(tuple);
    else {
      this.root = this.expand(tuple);
      this.findPaths();
    }
  }

  /** Whether nobody is in the guard. */
  get isEmpty(): boolean {
    return this.found.length === 0;
  }

  /** How many combinations there are. */
  get size(): number {
    return this.found.length;
  }

  /** Writes the outcomes of a combination to the places of the members. */
  writeInto(outcomes: number[], index: number): void {
    const combination = this.found[index] ?? [];
    for (let at = 0; at < this.members.length; at++)
      outcomes[this.members[at] ?? 0] = combination[this.placeOf[at] ?? 0] ?? everyoneElse;
  }

  /** Adds the cells by level that lead to a combination. */
  cellsInto(cells: Map<number, number>, index: number): void {
    for (const [level, cell] of this.paths[index] ?? []) cells.set(level, cell);
    let node = outcome(index);
    for (let step = this.reachedBy.get(node); step; step = this.reachedBy.get(node)) {
      cells.set(this.levels[step.from] ?? 0, step.cell);
      node = step.from;
    }
  }

  /** @param tuple the guard first */
  private expand(tuple: readonly Diagram[]): Diagram {
    if (tuple[0] === never) return nobody;
    const key = tupleKey(tuple);
    const known = this.nodes.get(key);
    if (known !== undefined) return known;
    const { diagrams } = this;
    const level = topOf(tuple, diagrams);
    let made: Diagram;
    if (level === Number.POSITIVE_INFINITY) made = this.combination(key, tuple);
    else {
      // Past the bound one way is followed to its end, so that what is listed is true though not all is.
      const isOver = this.isOver();
      if (isOver) this.complete = false;
      const branches: { cell: number; next: Diagram }[] = [];
      for (const { cell, next } of stretches(tuple, level, diagrams)) {
        const below =
          isOver && branches.some(({ next: found }) => found !== nobody) ? nobody : this.expand(next);
        branches.push({ cell, next: below });
      }
      made = this.node(level, branches);
    }
    this.nodes.set(key, made);
    return made;
  }

  private isOver(): boolean {
    return this.nodes.size > mostSteps || this.found.length > mostFaces || this.diagrams.work.isOver;
  }

  /** Goes through every assignment, looking only at diagrams whose outcome is not settled yet. */
  private enumerate(tuple: readonly Diagram[]): void {
    const [guard = always, ...members] = tuple;
    const { diagrams } = this;
    const settled = new Uint16Array(members.length);
    const path: (readonly [level: number, cell: number])[] = [];
    /** @param live the guard first, then the members of `who` in their order */
    const walk = (live: readonly Diagram[], who: readonly number[]): void => {
      const [limit = never] = live;
      if (limit === never) return;
      if (who.length === 0) {
        // The guard is not empty: some viewer remains.
        this.note(settled, [...path, ...(diagrams.example(limit) ?? [])]);
        return;
      }
      const level = topOf(live, diagrams);
      for (const { cell, next } of stretches(live, level, diagrams)) {
        const [left, leftWho]: [Diagram[], number[]] = [[next[0] ?? never], []];
        for (let index = 0; index < who.length; index++) {
          const below = next[index + 1] ?? never;
          const member = who[index] ?? 0;
          if (isOutcome(below)) settled[member] = below + 0x8000;
          else {
            left.push(below);
            leftWho.push(member);
          }
        }
        path.push([level, cell]);
        walk(left, leftWho);
        path.pop();
      }
    };
    const [live, who]: [Diagram[], number[]] = [[guard], []];
    for (const [member, diagram] of members.entries()) {
      if (isOutcome(diagram)) settled[member] = diagram + 0x8000;
      else {
        live.push(diagram);
        who.push(member);
      }
    }
    walk(live, who);
  }

  private note(settled: Uint16Array, path: readonly (readonly [level: number, cell: number])[]): void {
    const key: string = Reflect.apply(String.fromCharCode, undefined, settled);
    if (this.foundByKey.has(key)) return;
    const combination: number[] = [];
    for (const code of settled) combination.push(outcomeOf(code - 0x8000));
    this.foundByKey.set(key, outcome(this.found.push(combination) - 1));
    this.paths.push(path);
  }

  private combination(key: string, tuple: readonly Diagram[]): Diagram {
    const known = this.foundByKey.get(key);
    if (known !== undefined) return known;
    const made = outcome(this.found.push(tuple.slice(1).map(outcomeOf)) - 1);
    this.foundByKey.set(key, made);
    return made;
  }

  private node(level: number, branches: { cell: number; next: Diagram }[]): Diagram {
    const [first] = branches;
    if (first !== undefined && branches.every(({ next }) => next === first.next)) return first.next;
    const key = `${level}:${branches.map(({ cell, next }) => `${cell} ${next}`).join()}`;
    const known = this.unique.get(key);
    if (known !== undefined) return known;
    const made = this.levels.push(level) - 1;
    this.branches.push(branches);
    this.unique.set(key, made);
    return made;
  }

  /** Walks the joint diagram once, noting how each part of it is first reached. */
  private findPaths(): void {
    this.reachedBy.set(this.root, undefined);
    const open = [this.root];
    for (let from = open.pop(); from !== undefined; from = open.pop()) {
      if (isOutcome(from)) continue;
      for (const { cell, next } of this.branches[from] ?? []) {
        if (next === nobody || this.reachedBy.has(next)) continue;
        this.reachedBy.set(next, { from, cell });
        open.push(next);
      }
    }
  }
}
