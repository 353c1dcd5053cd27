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

export const never = outcome(0);
export const always = outcome(1);

/**
 * Multi-valued decision diagrams over a fixed order of variables. A diagram maps an assignment, one cell a variable,
 * to an outcome. Equal diagrams are the same number (hash-consing), so that comparing costs nothing; what was
 * combined once is remembered. After Bryant 1986, IEEE Transactions on Computers 35(8), and Srinivasan, Kam, Malik
 * and Brayton 1990 for more than two values.
 */
export class Diagrams {
  private readonly levels: number[] = [];
  private readonly branches: (readonly Diagram[])[] = [];
  private readonly known = new Map<string, Diagram>();
  private readonly combined = new Map<string, Diagram>();
  private readonly chosen = new Map<number | string, Diagram>();

  /** The level of a node in the order of variables; past the last one for an outcome. */
  levelOf(diagram: Diagram): number {
    return isOutcome(diagram) ? Number.POSITIVE_INFINITY : (this.levels[diagram] ?? Number.POSITIVE_INFINITY);
  }

  get size(): number {
    return this.levels.length;
  }

  /** The diagram that goes on with one branch for each cell of a variable. */
  node(level: number, branches: readonly Diagram[]): Diagram {
    const [first = never] = branches;
    if (branches.every((branch) => branch === first)) return first;
    const key = `${level}:${branches.join()}`;
    const found = this.known.get(key);
    if (found !== undefined) return found;
    const made = this.levels.push(level) - 1;
    this.branches.push(branches);
    this.known.set(key, made);
    return made;
  }

  /** What a diagram becomes when a variable takes a cell; the variable must not stand below its top. */
  at(diagram: Diagram, level: number, cell: number): Diagram {
    if (this.levelOf(diagram) !== level) return diagram;
    return this.branches[diagram]?.[cell] ?? never;
  }

  cellsAt(diagram: Diagram): number {
    return isOutcome(diagram) ? 0 : (this.branches[diagram]?.length ?? 0);
  }

  /** `then` where `condition` is true, `otherwise` where it is false. */
  choose(condition: Diagram, then: Diagram, otherwise: Diagram): Diagram {
    if (condition === always || then === otherwise) return then;
    if (condition === never) return otherwise;
    if (then === always && otherwise === never) return condition;
    const key = this.chosenKey(condition, then, otherwise);
    const found = this.chosen.get(key);
    if (found !== undefined) return found;
    const level = Math.min(this.levelOf(condition), this.levelOf(then), this.levelOf(otherwise));
    let width = 0;
    if (this.levelOf(condition) === level) width = this.cellsAt(condition);
    else width = this.levelOf(then) === level ? this.cellsAt(then) : this.cellsAt(otherwise);
    const branches: Diagram[] = [];
    for (let cell = 0; cell < width; cell++)
      branches.push(
        this.choose(
          this.at(condition, level, cell),
          this.at(then, level, cell),
          this.at(otherwise, level, cell),
        ),
      );
    const made = this.node(level, branches);
    this.chosen.set(key, made);
    return made;
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
    const branches = (this.branches[diagram] ?? []).map((branch) => this.map(branch, name, replace));
    const made = this.node(this.levelOf(diagram), branches);
    this.combined.set(key, made);
    return made;
  }

  /** A diagram with some variables fixed to a cell, by level; `name` stands for the choice among what is remembered. */
  restrict(diagram: Diagram, name: string, cellAt: (level: number) => number | undefined): Diagram {
    if (isOutcome(diagram)) return diagram;
    const key = `${name}!${diagram}`;
    const found = this.combined.get(key);
    if (found !== undefined) return found;
    const level = this.levelOf(diagram);
    const cell = cellAt(level);
    const made =
      cell === undefined
        ? this.node(
            level,
            (this.branches[diagram] ?? []).map((branch) => this.restrict(branch, name, cellAt)),
          )
        : this.restrict(this.at(diagram, level, cell), name, cellAt);
    this.combined.set(key, made);
    return made;
  }

  /** Every outcome that a diagram can have. */
  outcomes(diagram: Diagram): Set<number> {
    const found = new Set<number>();
    for (const node of this.reachable(diagram)) if (isOutcome(node)) found.add(outcomeOf(node));
    return found;
  }

  /** Adds the variables that a diagram depends on, each with the number of its cells, by level. */
  widthsInto(diagram: Diagram, widths: Map<number, number>): void {
    for (const node of this.reachable(diagram))
      if (!isOutcome(node)) widths.set(this.levelOf(node), this.cellsAt(node));
  }

  /** The levels of the variables that a diagram depends on. */
  support(diagram: Diagram): Set<number> {
    const found = new Set<number>();
    for (const node of this.reachable(diagram)) if (!isOutcome(node)) found.add(this.levelOf(node));
    return found;
  }

  /** An assignment that makes a diagram true, as cells by level; undefined where nothing does. */
  example(diagram: Diagram): Map<number, number> | undefined {
    if (diagram === never) return undefined;
    const path = new Map<number, number>();
    let node = diagram;
    while (!isOutcome(node)) {
      const branches = this.branches[node] ?? [];
      // A node other than `never` has a branch other than `never`, since equal branches are no node.
      const cell = branches.findIndex((branch) => branch !== never);
      path.set(this.levelOf(node), cell);
      node = branches[cell] ?? never;
    }
    return path;
  }

  private reachable(diagram: Diagram): Set<Diagram> {
    const seen = new Set<Diagram>([diagram]);
    const open = [diagram];
    for (let node = open.pop(); node !== undefined; node = open.pop())
      for (const branch of isOutcome(node) ? [] : (this.branches[node] ?? []))
        if (!seen.has(branch)) {
          seen.add(branch);
          open.push(branch);
        }
    return seen;
  }
}
