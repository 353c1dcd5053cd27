import { everyoneElse } from '../deciding/decide.ts';
import { always, type Diagram, type Diagrams, isOutcome, never, outcome, outcomeOf } from './diagrams.ts';

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

/** How many assignments of cells there are to the variables that a tuple depends on. */
function assignments(tuple: readonly Diagram[], diagrams: Diagrams): number {
  const widths = new Map<number, number>();
  for (const diagram of tuple) diagrams.widthsInto(diagram, widths);
  let product = 1;
  for (const width of widths.values()) product *= width;
  return product;
}

/** Stands in a joint diagram where the guard lets nobody through. */
const nobody = outcome(-1);

/**
 * The combinations of outcomes that several diagrams have together. The tuple of diagrams is expanded from the top,
 * each tuple once, into one joint diagram whose outcomes stand for combinations.
 */
export class Joint {
  complete = true;
  private readonly nodes = new Map<string, Diagram>();
  private readonly levels: number[] = [];
  private readonly branches: Diagram[][] = [];
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
    let level = Number.POSITIVE_INFINITY;
    let width = 0;
    for (const diagram of tuple) {
      const own = diagrams.levelOf(diagram);
      if (own < level) {
        level = own;
        width = diagrams.cellsAt(diagram);
      }
    }
    let made: Diagram;
    if (level === Number.POSITIVE_INFINITY) made = this.combination(key, tuple);
    else if (this.nodes.size > mostSteps || this.found.length > mostFaces) {
      this.complete = false;
      // Some combination that stands below, so that what is listed is true though not all is.
      const [guard = always] = tuple;
      const cell = Math.max(
        0,
        Array.from({ length: width }, (_, index) => index).findIndex(
          (index) => diagrams.at(guard, level, index) !== never,
        ),
      );
      const below = this.expand(tuple.map((diagram) => diagrams.at(diagram, level, cell)));
      const branches = Array.from({ length: width }, (_, index) => (index === cell ? below : nobody));
      made = this.node(level, branches);
    } else {
      const branches: Diagram[] = [];
      for (let cell = 0; cell < width; cell++) {
        const next: Diagram[] = [];
        for (const diagram of tuple) next.push(diagrams.at(diagram, level, cell));
        branches.push(this.expand(next));
      }
      made = this.node(level, branches);
    }
    this.nodes.set(key, made);
    return made;
  }

  /** Goes through every assignment of cells, looking only at diagrams whose outcome is not settled yet. */
  private enumerate(tuple: readonly Diagram[]): void {
    const [guard = always, ...members] = tuple;
    const { diagrams } = this;
    const settled = new Uint16Array(members.length);
    const path: (readonly [level: number, cell: number])[] = [];
    const walk = (limit: Diagram, live: readonly Diagram[], who: readonly number[], level: number): void => {
      if (limit === never) return;
      if (live.length === 0) {
        // Somebody in the guard is left, whoever it is.
        this.note(settled, [...path, ...(diagrams.example(limit) ?? [])]);
        return;
      }
      const width = this.widthAt(level, limit, live);
      for (let cell = 0; cell < width; cell++) {
        const nextLimit = diagrams.at(limit, level, cell);
        const [next, nextWho]: [Diagram[], number[]] = [[], []];
        let nextLevel = diagrams.levelOf(nextLimit);
        for (let index = 0; index < live.length; index++) {
          const member = who[index] ?? 0;
          const below = diagrams.at(live[index] ?? never, level, cell);
          if (isOutcome(below)) settled[member] = below + 0x8000;
          else {
            next.push(below);
            nextWho.push(member);
            nextLevel = Math.min(nextLevel, diagrams.levelOf(below));
          }
        }
        path.push([level, cell]);
        walk(nextLimit, next, nextWho, nextLevel);
        path.pop();
      }
    };
    let level = diagrams.levelOf(guard);
    const [live, who]: [Diagram[], number[]] = [[], []];
    for (const [member, diagram] of members.entries()) {
      if (isOutcome(diagram)) settled[member] = diagram + 0x8000;
      else {
        live.push(diagram);
        who.push(member);
        level = Math.min(level, diagrams.levelOf(diagram));
      }
    }
    walk(guard, live, who, level);
  }

  private widthAt(level: number, limit: Diagram, live: readonly Diagram[]): number {
    const { diagrams } = this;
    if (diagrams.levelOf(limit) === level) return diagrams.cellsAt(limit);
    for (const diagram of live) if (diagrams.levelOf(diagram) === level) return diagrams.cellsAt(diagram);
    return 0;
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

  private node(level: number, branches: Diagram[]): Diagram {
    const [first] = branches;
    if (first !== undefined && branches.every((branch) => branch === first)) return first;
    const key = `${level}:${branches.join()}`;
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
      for (const [cell, next] of (this.branches[from] ?? []).entries()) {
        if (next === nobody || this.reachedBy.has(next)) continue;
        this.reachedBy.set(next, { from, cell });
        open.push(next);
      }
    }
  }
}
