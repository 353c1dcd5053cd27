import type { Attribute } from '../../attributes/attribute.ts';
import type { Fact } from '../../attributes/viewer.ts';
import type { Question } from '../../conditions/meaning.ts';
import type { Diagram, Diagrams } from '../diagrams/diagrams.ts';

/** Why an attribute can't be split exactly; shown instead of a result. */
export class TooManyValues extends Error {}

/** One level of the diagrams: what viewers are told apart by, in finitely many cells that no test tells apart further. */
export interface Variable {
  /** How many cells there are. The first is that of a missing value, or the answer no. */
  readonly width: number;
  /** Some of its cells in words, such as "membership tier is Dusk or Twilight"; undefined where words fail. */
  say(cells: ReadonlySet<number>): string | undefined;
}

/** Diagrams over the variables of one domain. */
export interface Levels {
  readonly diagrams: Diagrams;
  levelOf(variable: Variable): number;
}

/** The day that date tests count from. */
export interface Today {
  /** The local day of an instant, see calendar.ts. */
  readonly day: number;
}

/**
 * The values that an attribute can have, split into what the questions asked of it can tell apart. Most attributes are one
 * variable with a cell for each class of values; sets, languages, texts that are searched and dates that are compared in
 * several ways are several variables with constraints between them.
 */
export interface Domain {
  readonly attribute: Attribute;
  readonly variables: readonly Variable[];
  /** True for the values for which a question, one of those that the domain was made for, is answered yes. */
  answer(question: Question, levels: Levels): Diagram;
  /** What ties its variables to each other, for a value that there can be. */
  constraints(levels: Levels): Diagram[];
  /**
   * A value in some cells, one for each variable; undefined for a missing one. The cells must be possible together.
   *
   * @param other whether it has to be another value than the one that the same cells give without it
   */
  invent(cells: readonly number[], today: Today, other?: boolean): Fact;
  /** The cell that a value falls into, for each variable. */
  place(fact: Fact, today: Today): number[];
}

/** The variable of a domain that has just one. */
export function cellsWhere(
  { diagrams, levelOf }: Levels,
  variable: Variable,
  holds: (cell: number) => boolean,
): Diagram {
  return diagrams.cells(levelOf(variable), variable.width, holds);
}

/** True where a variable is in any cell but the first. */
export function known(levels: Levels, variable: Variable): Diagram {
  return levels.diagrams.range(levels.levelOf(variable), variable.width, 1, variable.width);
}

/** Thrown for a question that a domain was not made for, which would be a mistake here. */
export function notAsked({ kind }: Question, { label }: Attribute): Error {
  return new Error(`the values of ${label} were not split for a question of kind ${kind}`);
}
