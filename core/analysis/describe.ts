import { everyoneElse } from '../deciding/decide.ts';
import { hidden } from '../deciding/visibility.ts';
import type { Slot } from '../documents/document.ts';
import { type Diagram, never } from './diagrams/diagrams.ts';
import type { World } from './world.ts';

export interface FaceDescription {
  /** Who gets it, by audiences: exactly those in all of the first and none of the second. */
  readonly in: readonly string[];
  readonly notIn: readonly string[];
  /** The same as independent attribute tests, where each alone is enough: "signed in", "membership tier is Midnight". */
  readonly facts: readonly string[] | undefined;
}

/** What finding a shorter description may take, in steps: about two milliseconds. */
const mostSteps = 3000;
/** And the time that all those of a document may take, in milliseconds. */
const mostTime = 250;
/** Statements about attributes beyond which a list of audiences is easier to read. */
const mostStatements = 5;

/** Descriptions of some faces of a document, see {@link describeFace}. */
export function describeFaces(
  faces: readonly (readonly number[])[],
  slots: readonly Slot[],
  diagrams: readonly Diagram[],
  world: World,
): FaceDescription[] {
  const end = performance.now() + mostTime;
  return faces.map((choices) => describeFace(choices, slots, diagrams, world, performance.now() < end));
}

/**
 * A short description of who gets a face: the audiences that its variants are for and those that were passed over, without
 * any that the others imply. Where that takes too long, fewer are left out; it says the same viewers in any case.
 *
 * @param slots the slots of the document in reading order
 * @param diagrams who gets which choice of each, see slotDiagrams
 * @param thorough whether to look for more than what single audiences imply
 */
export function describeFace(
  choices: readonly number[],
  slots: readonly Slot[],
  diagrams: readonly Diagram[],
  world: World,
  thorough = true,
): FaceDescription {
  const whole = audiencesOfFace(choices, slots, world);
  const plain = world.work.within({}, () => withoutImplied(whole, world)) ?? whole;
  if (!thorough) return { ...plain, facts: undefined };
  const shorter = world.work.within({ steps: mostSteps }, () => {
    const who = diagrams.reduce<Diagram>(
      (all, slot, index) =>
        world.diagrams.and(all, world.diagrams.where(slot, choices[index] ?? everyoneElse)),
      world.possible,
    );
    return { ...shortest(plain, who, world), facts: sayViewers(who, world) };
  });
  return shorter ?? { ...plain, facts: undefined };
}

type ByAudience = Pick<FaceDescription, 'in' | 'notIn'>;

/** For each slot that is seen, the audience of its variant, and those of the variants above it. */
function audiencesOfFace(choices: readonly number[], slots: readonly Slot[], world: World): ByAudience {
  const [inside, outside] = [new Set<string>(), new Set<string>()];
  for (const [index, { variants }] of slots.entries()) {
    const choice = choices[index] ?? everyoneElse;
    if (choice === hidden) continue;
    const passed = choice === everyoneElse ? variants : variants.slice(0, choice);
    // Of an audience that contains nobody there is nothing to say.
    for (const { audience } of passed) if (world.audience(audience) !== never) outside.add(audience);
    const own = variants[choice];
    if (own) inside.add(own.audience);
  }
  return { in: [...inside], notIn: [...outside] };
}

/** Drops each part that another single audience implies. */
function withoutImplied({ in: inside, notIn: outside }: ByAudience, world: World): ByAudience {
  const { diagrams } = world;
  const of = (id: string) => world.audience(id);
  let [kept, keptOut] = [inside, outside];
  // Wide audiences go first, so that the narrow one that says most stays.
  for (const id of inside)
    if (kept.some((other) => other !== id && diagrams.implies(of(other), of(id))))
      kept = kept.filter((other) => other !== id);
  for (const id of outside)
    if (
      kept.some((other) => diagrams.excludes(of(other), of(id))) ||
      keptOut.some((other) => other !== id && diagrams.implies(of(id), of(other)))
    )
      keptOut = keptOut.filter((other) => other !== id);
  return { in: kept, notIn: keptOut };
}

/** Drops each part that the remaining ones imply together. */
function shortest({ in: inside, notIn: outside }: ByAudience, who: Diagram, world: World): ByAudience {
  const { diagrams } = world;
  const means = (some: readonly string[], none: readonly string[]): boolean => {
    let meant = world.possible;
    for (const id of some) meant = diagrams.and(meant, world.audience(id));
    for (const id of none) meant = diagrams.and(meant, diagrams.not(world.audience(id)));
    return meant === who;
  };
  let [some, none] = [inside, outside];
  for (const id of outside) {
    const fewer = none.filter((other) => other !== id);
    if (means(some, fewer)) none = fewer;
  }
  for (const id of inside) {
    const fewer = some.filter((other) => other !== id);
    if (means(fewer, none)) some = fewer;
  }
  return { in: some, notIn: none };
}

/**
 * Some viewers in words, one statement for each variable, where these together mean exactly them; undefined where they
 * don't, or where words fail.
 *
 * @param among the viewers that are meant to begin with; what is so of all of them is not said
 */
export function sayViewers(
  who: Diagram,
  world: World,
  among = world.possible,
  most = mostStatements,
): string[] | undefined {
  const { diagrams } = world;
  let meant = among;
  const said: string[] = [];
  // The state of knowing last: most attributes say already that somebody is known.
  const levels = [...diagrams.support(who)].sort((left, right) =>
    left === 0 ? 1 : right === 0 ? -1 : left - right,
  );
  for (const level of levels) {
    const cells = cellsOf(who, level, world);
    const narrowed = diagrams.and(
      meant,
      diagrams.cells(level, world.widthOf(level), (cell) => cells.has(cell)),
    );
    // What is so of everybody left anyway is not worth saying.
    if (narrowed === meant) continue;
    const words = world.sayCells(level, cells);
    if (words === undefined || said.length === most) return undefined;
    if (level === 0) said.unshift(words);
    else said.push(words);
    meant = narrowed;
  }
  return meant === who ? said : undefined;
}

/** The cells of a level that some of the viewers are in. */
function cellsOf(who: Diagram, level: number, world: World): Set<number> {
  const { diagrams } = world;
  const cells = new Set<number>();
  const seen = new Set<Diagram>();
  const all = (from: number, until: number) => {
    for (let cell = from; cell < until; cell++) cells.add(cell);
  };
  const open = [who];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (node === never || seen.has(node)) continue;
    seen.add(node);
    const own = diagrams.levelOf(node);
    // What no longer asks for the level is so for every cell of it.
    if (own > level) all(0, world.widthOf(level));
    let cell = 0;
    for (const { end, next } of diagrams.runsOf(node)) {
      if (own < level) open.push(next);
      else if (own === level && next !== never) all(cell, end);
      cell = end;
    }
  }
  return cells;
}
