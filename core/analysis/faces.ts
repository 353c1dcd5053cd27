import type { Viewer } from '../attributes/viewer.ts';
import { everyoneElse } from '../deciding/decide.ts';
import { hidden } from '../deciding/visibility.ts';
import { type Content, listsOf, type Node, regionNames, type Slot, slotsOf } from '../documents/document.ts';
import { always, type Diagram, type Diagrams, never, outcome } from './diagrams/diagrams.ts';
import { Joint, mostFaces, tupleKey } from './joint.ts';
import { states } from './states.ts';
import type { World } from './world.ts';

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
 *
 * @param fewAssignments see {@link Joint}; what is found does not depend on it
 */
export function facesOf(content: Content, world: World, fewAssignments?: number): Faces {
  const slots = slotDiagrams(content, world);
  const faces = new Map<string, Face>();
  const codes = new Uint16Array(slots.length);
  const complete = combinationsOf(
    slots,
    world,
    (choices, cells, state) => {
      for (let at = 0; at < choices.length; at++) codes[at] = (choices[at] ?? everyoneElse) - hidden;
      const key: string = Reflect.apply(String.fromCharCode, undefined, codes);
      // Anonymous viewers first, so that a face they share with contacts is attributed to them.
      const anonymous = states[state] === 'anonymous';
      if (!faces.has(key))
        faces.set(key, { choices: choices.slice(), witness: world.viewer(cells()), anonymous });
      return faces.size < mostFaces;
    },
    fewAssignments,
  );
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
  fewAssignments?: number,
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
        fewAssignments,
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
