import { everyoneElse } from '../deciding/decide.ts';
import { type Diagram, never } from './diagrams.ts';
import type { World } from './world.ts';

export interface FaceDescription {
  /** Who gets it, by audiences: exactly these viewers and no others. Undefined where audiences can't say it. */
  readonly in: readonly string[];
  readonly notIn: readonly string[];
  readonly exact: boolean;
  /**
   * The same by attributes, where each of them by itself says who: "signed in", "membership tier is Midnight". Exact
   * where it is there.
   */
  readonly facts: readonly string[] | undefined;
}

/**
 * The shortest honest description of who gets a face: audiences that all of them are in and audiences that none of
 * them is in, dropped one by one as long as the rest still means exactly the same viewers.
 *
 * @param slots who gets which choice of each slot, see slotDiagrams
 * @param used the audiences to say it by
 */
export function describeFace(
  choices: readonly number[],
  slots: readonly Diagram[],
  used: readonly string[],
  world: World,
): FaceDescription {
  const { diagrams } = world;
  const who = slots.reduce<Diagram>(
    (all, slot, index) => diagrams.and(all, diagrams.where(slot, choices[index] ?? everyoneElse)),
    world.possible,
  );
  const within = used.filter((id) => diagrams.and(who, diagrams.not(world.audience(id))) === never);
  const outside = used.filter((id) => diagrams.and(who, world.audience(id)) === never);
  const means = (some: readonly string[], none: readonly string[]): boolean => {
    let meant = world.possible;
    for (const id of some) meant = diagrams.and(meant, world.audience(id));
    for (const id of none) meant = diagrams.and(meant, diagrams.not(world.audience(id)));
    return meant === who;
  };
  let [some, none] = [within, outside];
  const exact = means(some, none);
  if (exact) {
    for (const id of outside) {
      const fewer = none.filter((other) => other !== id);
      if (means(some, fewer)) none = fewer;
    }
    // Wide audiences go first, so that the narrow one that says most stays.
    const wideFirst = within.filter((id) =>
      within.some(
        (other) =>
          other !== id && diagrams.and(world.audience(other), diagrams.not(world.audience(id))) === never,
      ),
    );
    for (const id of [...wideFirst, ...within]) {
      const fewer = some.filter((other) => other !== id);
      if (fewer.length < some.length && means(fewer, none)) some = fewer;
    }
  }
  return { in: some, notIn: none, exact, facts: factsOf(who, world) };
}

/** Some viewers by one statement for each variable, where these together mean exactly them. */
function factsOf(who: Diagram, world: World): string[] | undefined {
  const { diagrams } = world;
  let meant = world.possible;
  const said: string[] = [];
  // The state of knowing last: most attributes say already that somebody is known.
  const levels = [...diagrams.support(who)].sort((left, right) =>
    left === 0 ? 1 : right === 0 ? -1 : left - right,
  );
  for (const level of levels) {
    const cells = new Set<number>();
    for (let cell = 0; cell < world.widthOf(level); cell++)
      if (diagrams.and(who, world.only(level, cell)) !== never) cells.add(cell);
    const part = [...cells].reduce<Diagram>((any, cell) => diagrams.or(any, world.only(level, cell)), never);
    const narrowed = diagrams.and(meant, part);
    // What is so of everybody left anyway is not worth saying.
    if (narrowed === meant) continue;
    const words = world.sayCells(level, cells);
    if (words === undefined) return undefined;
    if (level === 0) said.unshift(words);
    else said.push(words);
    meant = narrowed;
  }
  return meant === who ? said : undefined;
}
