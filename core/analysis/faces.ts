import type { Viewer } from '../attributes/viewer.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { type Content, listsOf, type Node, regionNames, type Slot, slotsOf } from '../documents/document.ts';
import { always, type Diagram, type Diagrams, isOutcome, never, outcome, outcomeOf } from './diagrams.ts';
import { states } from './states.ts';
import type { World } from './world.ts';

/** A slot that stands inside a variant that is not shown. */
export const hidden = -2;

/** One distinct combination of variants that a document can show. */
export interface Face {
  /** For each slot in reading order the variant shown, everyone else, or hidden. */
  readonly choices: readonly number[];
  /** A viewer who gets it, invented; every attribute that does not matter is missing. */
  readonly witness: Viewer;
  /** Whether anonymous visitors can get it. */
  readonly anonymous: boolean;
}

export interface Faces {
  readonly faces: readonly Face[];
  /** False where there are more faces than were listed. */
  readonly complete: boolean;
}

/** Most faces that are listed, and most steps of working them out. */
export const mostFaces = 1500;
const mostSteps = 400_000;
const fewAssignments = 20_000;

/** The name of a combination of choices, the same for faces and for decisions. */
export function faceKey(choices: Iterable<number>): string {
  return Array.isArray(choices) ? choices.join() : [...choices].join();
}

/**
 * Makes decisions of a document into what is visible: a slot that stands in a variant or everyone else that is not
 * shown becomes hidden. Planned once, since most documents have no slot inside another.
 */
export function visibilityOf(content: Content): (choices: ArrayLike<number>) => number[] {
  const order = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  /** The slots that stand in another, with the choice of it that shows them. */
  const inner: { slot: number; outer: number; choice: number }[] = [];
  const walk = (nodes: readonly Node[], within: { outer: number; choice: number } | undefined): void => {
    for (const node of nodes) {
      if (node.kind !== 'slot') {
        for (const list of listsOf(node)) walk(list, within);
        continue;
      }
      const slot = order.get(node.id) ?? 0;
      if (within) inner.push({ slot, ...within });
      for (const [choice, variant] of node.variants.entries()) walk(variant.content, { outer: slot, choice });
      walk(node.otherwise, { outer: slot, choice: everyoneElse });
    }
  };
  for (const region of regionNames) walk(content[region], undefined);
  return (choices) => {
    const visible: number[] = [];
    for (let slot = 0; slot < order.size; slot++) visible.push(choices[slot] ?? everyoneElse);
    // A slot comes after the one it stands in, whose visibility is known by then.
    for (const { slot, outer, choice } of inner) if (visible[outer] !== choice) visible[slot] = hidden;
    return visible;
  };
}

/** For each slot in reading order, who gets which choice; hidden where an outer slot shows another variant. */
export function slotDiagrams(content: Content, world: World): Diagram[] {
  const { diagrams } = world;
  const found = new Map<string, Diagram>();
  const choiceOf = (slot: Slot): Diagram =>
    slot.variants.reduceRight(
      (rest, variant, index) => diagrams.choose(world.audience(variant.audience), outcome(index), rest),
      outcome(everyoneElse),
    );
  const walk = (nodes: readonly Node[], visible: Diagram | undefined): void => {
    for (const node of nodes) {
      if (node.kind !== 'slot') {
        for (const list of listsOf(node)) walk(list, visible);
        continue;
      }
      const own = choiceOf(node);
      const shown = visible === undefined ? own : diagrams.choose(visible, own, outcome(hidden));
      found.set(node.id, shown);
      for (const [index, variant] of node.variants.entries())
        walk(variant.content, diagrams.where(shown, index));
      walk(node.otherwise, diagrams.where(shown, everyoneElse));
    }
  };
  for (const region of regionNames) walk(content[region], undefined);
  return slotsOf(content).map((slot) => found.get(slot.id) ?? outcome(everyoneElse));
}

/**
 * All faces of a document for every possible viewer, each with an invented viewer who gets it. For each state of
 * knowing, slots that share no attribute are worked out apart and only then put together.
 */
export function facesOf(content: Content, world: World): Faces {
  const slots = slotDiagrams(content, world);
  const faces = new Map<string, Face>();
  const codes = new Uint16Array(slots.length);
  const complete = combinationsOf(slots, world, (choices, cells, state) => {
    for (let at = 0; at < choices.length; at++) codes[at] = (choices[at] ?? everyoneElse) - hidden;
    const key: string = Reflect.apply(String.fromCharCode, undefined, codes);
    // Whoever is anonymous comes first, so that a face is known to be theirs when it is found.
    const anonymous = states[state] === 'anonymous';
    if (!faces.has(key))
      faces.set(key, { choices: choices.slice(), witness: world.viewer(cells()), anonymous });
    return faces.size < mostFaces;
  });
  return { faces: [...faces.values()], complete };
}

/**
 * Hands over every combination of outcomes that diagrams have together among the viewers that there can be, with cells
 * by level that lead to it; one combination may come several times, once for each state of knowing.
 *
 * @param take says whether to go on; the outcomes are good until it returns
 * @returns false where not all combinations were handed over
 */
export function combinationsOf(
  diagramsOf: readonly Diagram[],
  world: World,
  take: (outcomes: readonly number[], cells: () => Map<number, number>, state: number) => boolean,
): boolean {
  const { diagrams } = world;
  let complete = true;
  const done = new Set<string>();
  for (const state of world.openStates) {
    const members = diagramsOf.map((diagram) => world.inState(diagram, state));
    const guards = world.constraints.map((constraint) => world.inState(constraint, state));
    // Where nothing asks whether somebody is signed in, that state brings nothing new.
    const same = tupleKey([...members, ...guards]);
    if (done.has(same)) continue;
    done.add(same);
    const groups = sharing([...members, ...guards], diagrams).map((group) => {
      const own = group.filter((index) => index < members.length);
      const guard = group
        .filter((index) => index >= members.length)
        .reduce<Diagram>((all, index) => diagrams.and(all, guards[index - members.length] ?? always), always);
      return new Joint(
        diagrams,
        own.map((index) => members[index] ?? never),
        own,
        guard,
      );
    });
    if (groups.some((group) => group.isEmpty)) continue;
    if (groups.some((group) => !group.complete)) complete = false;
    const outcomes = diagramsOf.map(() => everyoneElse);
    const chosen: { group: Joint; index: number }[] = [];
    const cells = () => {
      const all = new Map([[0, state]]);
      for (const { group, index } of chosen) group.cellsInto(all, index);
      return all;
    };
    const put = (at: number): boolean => {
      const group = groups[at];
      if (!group) return take(outcomes, cells, state);
      for (let index = 0; index < group.size; index++) {
        group.writeInto(outcomes, index);
        chosen.push({ group, index });
        const goOn = put(at + 1);
        chosen.pop();
        if (!goOn) return false;
      }
      return true;
    };
    if (!put(0)) return false;
  }
  return complete;
}

/** A text for a tuple of diagrams, one character each while they are few. */
function tupleKey(tuple: readonly Diagram[]): string {
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

/** The slots in groups of those that depend, through others, on a common attribute. */
function sharing(slots: readonly Diagram[], diagrams: Diagrams): number[][] {
  const groups: { levels: Set<number>; members: number[] }[] = [];
  for (const [index, slot] of slots.entries()) {
    const merged = { levels: diagrams.support(slot), members: [index] };
    for (const group of groups.splice(0)) {
      if ([...group.levels].some((level) => merged.levels.has(level))) {
        for (const level of group.levels) merged.levels.add(level);
        merged.members.push(...group.members);
      } else groups.push(group);
    }
    groups.push(merged);
  }
  return groups.map(({ members }) => members.sort((left, right) => left - right));
}

/**
 * The combinations of outcomes that several diagrams have together. The tuple of diagrams is expanded from the top,
 * each tuple once, into one joint diagram whose outcomes stand for combinations.
 */
class Joint {
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

  /** @param guard only viewers in it count */
  constructor(
    private readonly diagrams: Diagrams,
    roots: readonly Diagram[],
    readonly members: readonly number[],
    guard: Diagram,
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
