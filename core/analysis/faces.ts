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
      for (const combination of group.combinations()) {
        const next = [...choices];
        for (const [index, member] of group.members.entries())
          next[member] = combination[index] ?? everyoneElse;
        put(at + 1, next, new Map([...chosen, ...group.example(combination)]));
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

/** The combinations of outcomes that several diagrams have together, worked out from the top, remembered. */
class Joint {
  complete = true;
  private readonly reach = new Map<string, ReadonlySet<string>>();
  private readonly all: ReadonlySet<string>;

  constructor(
    private readonly diagrams: Diagrams,
    private readonly roots: readonly Diagram[],
    readonly members: readonly number[],
  ) {
    this.all = this.expand(roots);
  }

  combinations(): number[][] {
    return [...this.all].map((key) => key.split(',').map(Number));
  }

  /** Cells by level that lead to a combination. */
  example(combination: readonly number[]): Map<number, number> {
    const wanted = combination.join();
    const path = new Map<number, number>();
    let tuple = this.roots;
    for (let level = this.top(tuple); level !== Number.POSITIVE_INFINITY; level = this.top(tuple)) {
      const cell = this.steps(tuple, level).findIndex((next) => this.expand(next).has(wanted));
      path.set(level, cell);
      tuple = this.steps(tuple, level)[cell] ?? tuple;
    }
    return path;
  }

  private expand(tuple: readonly Diagram[]): ReadonlySet<string> {
    const level = this.top(tuple);
    if (level === Number.POSITIVE_INFINITY) return new Set([tuple.map(outcomeOf).join()]);
    const key = tuple.join();
    const found = this.reach.get(key);
    if (found) return found;
    const reached = new Set<string>();
    if (this.reach.size > mostSteps) this.complete = false;
    else
      for (const next of this.steps(tuple, level)) {
        for (const combination of this.expand(next)) reached.add(combination);
        if (reached.size > mostFaces) {
          this.complete = false;
          break;
        }
      }
    this.reach.set(key, reached);
    return reached;
  }

  private top(tuple: readonly Diagram[]): number {
    return Math.min(...tuple.map((diagram) => this.diagrams.levelOf(diagram)));
  }

  private steps(tuple: readonly Diagram[], level: number): Diagram[][] {
    const width = Math.max(
      ...tuple.map((diagram) =>
        this.diagrams.levelOf(diagram) === level ? this.diagrams.cellsAt(diagram) : 0,
      ),
    );
    return Array.from({ length: width }, (_, cell) =>
      tuple.map((diagram) => this.diagrams.at(diagram, level, cell)),
    );
  }
}
