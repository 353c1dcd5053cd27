import type { Viewer } from '../attributes/viewer.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { type Content, type Node, regionNames, type Slot, slotsOf } from '../documents/document.ts';
import { type Diagram, type Diagrams, isOutcome, outcome, outcomeOf } from './diagrams.ts';
import { states, type World } from './world.ts';

/** A slot that stands inside a variant that is not shown. */
export const hidden = -2;

/** One distinct combination of variants that a document can show. */
export interface Face {
  /** For each slot in reading order the variant shown, everyone else, or hidden. */
  readonly choices: readonly number[];
  /** A viewer who gets it, invented; every attribute that does not matter is missing. */
  readonly witness: Viewer;
}

export interface Faces {
  readonly faces: readonly Face[];
  /** False where there are more faces than were listed. */
  readonly complete: boolean;
}

/** Most faces that are listed, and most steps of working them out. */
export const mostFaces = 1500;
const mostSteps = 400_000;

/** The name of a combination of choices, the same for faces and for decisions. */
export function faceKey(choices: Iterable<number>): string {
  return [...choices].join();
}

/**
 * Makes decisions of a document into what is visible: a slot that stands in a variant or everyone else that is not
 * shown becomes hidden. Planned once, since most documents have no slot inside another.
 */
export function visibilityOf(content: Content): (choices: ArrayLike<number>) => number[] {
  const order = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  const outer = slotsOf(content).map((): { slot: number; choice: number } | undefined => undefined);
  const walk = (nodes: readonly Node[], within: { slot: number; choice: number } | undefined): void => {
    for (const node of nodes) {
      if (node.kind === 'section') walk(node.children, within);
      if (node.kind !== 'slot') continue;
      const slot = order.get(node.id) ?? 0;
      outer[slot] = within;
      for (const [choice, variant] of node.variants.entries()) walk(variant.content, { slot, choice });
      walk(node.otherwise, { slot, choice: everyoneElse });
    }
  };
  for (const region of regionNames) walk(content[region], undefined);
  return (choices) => {
    const visible: number[] = [];
    // A slot comes after the one it stands in, whose visibility is known by then.
    for (const [slot, within] of outer.entries())
      visible.push(
        within === undefined || visible[within.slot] === within.choice
          ? (choices[slot] ?? everyoneElse)
          : hidden,
      );
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
      if (node.kind === 'section') walk(node.children, visible);
      if (node.kind !== 'slot') continue;
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
export function facesOf(content: Content, world: World, instant: number): Faces {
  const { diagrams } = world;
  const slots = slotDiagrams(content, world);
  const faces = new Map<string, Face>();
  let complete = true;
  for (const state of world.openStates) {
    const inState = slots.map((slot) => diagrams.at(slot, 0, state));
    const cells = new Map([[0, state]]);
    if (states[state] === 'anonymous') {
      const choices = inState.map((slot) => outcomeOf(whenNothingKnown(slot, diagrams)));
      const key = faceKey(choices);
      if (!faces.has(key)) faces.set(key, { choices, witness: world.viewer(cells, instant) });
      continue;
    }
    const groups = sharing(inState, diagrams).map(
      (members) =>
        new Joint(
          diagrams,
          members.map((member) => inState[member] ?? 0),
          members,
        ),
    );
    if (groups.some((group) => !group.complete)) complete = false;
    const put = (at: number, choices: number[], chosen: Map<number, number>): void => {
      if (faces.size >= mostFaces) {
        complete = false;
        return;
      }
      const group = groups[at];
      if (!group) {
        const key = faceKey(choices);
        if (!faces.has(key)) faces.set(key, { choices, witness: world.viewer(chosen, instant) });
        return;
      }
      for (const { outcomes, cells: own } of group.combinations()) {
        const next = [...choices];
        for (const [index, member] of group.members.entries()) next[member] = outcomes[index] ?? everyoneElse;
        put(at + 1, next, new Map([...chosen, ...own]));
      }
    };
    put(
      0,
      slots.map(() => everyoneElse),
      cells,
    );
  }
  return { faces: [...faces.values()], complete };
}

/** Follows the cell of missing values at every level. */
function whenNothingKnown(diagram: Diagram, diagrams: Diagrams): Diagram {
  let node = diagram;
  while (!isOutcome(node)) node = diagrams.at(node, diagrams.levelOf(node), 0);
  return node;
}

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
  /** For each member, the place of its diagram among the different ones. */
  private readonly placeOf: readonly number[];
  private readonly root: Diagram;
  private readonly reachedBy = new Map<Diagram, { from: Diagram; cell: number } | undefined>();

  constructor(
    private readonly diagrams: Diagrams,
    roots: readonly Diagram[],
    readonly members: readonly number[],
  ) {
    const different = [...new Set(roots)];
    this.placeOf = roots.map((root) => different.indexOf(root));
    this.root = this.expand(different);
    this.findPaths();
  }

  /** Each combination, one outcome a member, with the cells by level that lead to it. */
  *combinations(): Generator<{ outcomes: number[]; cells: Map<number, number> }> {
    for (const [index, combination] of this.found.entries()) {
      const cells = new Map<number, number>();
      for (
        let node = outcome(index), step = this.reachedBy.get(node);
        step;
        step = this.reachedBy.get(node)
      ) {
        cells.set(this.levels[step.from] ?? 0, step.cell);
        node = step.from;
      }
      yield { outcomes: this.placeOf.map((place) => combination[place] ?? everyoneElse), cells };
    }
  }

  private expand(tuple: readonly Diagram[]): Diagram {
    const key = tuple.join();
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
      made = this.expand(
        tuple.map((diagram) =>
          diagrams.levelOf(diagram) === level ? diagrams.at(diagram, level, 0) : diagram,
        ),
      );
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

  private combination(key: string, tuple: readonly Diagram[]): Diagram {
    const known = this.foundByKey.get(key);
    if (known !== undefined) return known;
    const made = outcome(this.found.push(tuple.map(outcomeOf)) - 1);
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
        if (this.reachedBy.has(next)) continue;
        this.reachedBy.set(next, { from, cell });
        open.push(next);
      }
    }
  }
}
