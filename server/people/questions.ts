import type { Attribute } from '../../core/attributes/attribute.ts';
import type { Audience } from '../../core/audiences/audience.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import type { Content } from '../../core/documents/document.ts';
import type { FaceCount } from '../../core/population/classify.ts';
import type { Setting } from '../../core/population/population.ts';

/** Most scopes that a thread remembers; one that was long unused is sent to it again. */
export const mostScopes = 8;

/** What questions about people are asked in: the attributes, the zone and the audiences of the drafts or a release. */
export interface Scope {
  readonly attributes: readonly Attribute[];
  readonly zone: string;
  readonly audiences: readonly Audience[];
}

export interface ListQuery {
  readonly where: Condition;
  readonly search: string;
  /** Only contacts that an import wrote, where one is given; the database knows them, contacts in memory don't. */
  readonly importId?: number | undefined;
  /** The id of an attribute, or `name`. */
  readonly sort: string;
  readonly direction: 'up' | 'down';
  readonly from: number;
  readonly most: number;
}

/** Those who cross a border: how many, and some of their ids. */
export interface Crossing {
  readonly count: number;
  readonly ids: number[];
}

/** Everything that is asked of all contacts at once. Conditions must be free of problems. */
export interface AsksPeople {
  total(): Promise<number>;
  /** How many are in each of some conditions. */
  count(scope: Scope, setting: Setting, conditions: readonly Condition[]): Promise<number[]>;
  /** The ids of those in a condition, in the order they were added; at most so many, from all over the list. */
  some(scope: Scope, setting: Setting, condition: Condition, most: number): Promise<number[]>;
  /** Who comes into a condition and who leaves it from each setting to the next, as counts and the ids of some. */
  changes(
    scope: Scope,
    settings: readonly Setting[],
    condition: Condition,
    most: number,
  ): Promise<{ count: number; entering: Crossing; leaving: Crossing }[]>;
  /** How many lack a value of each of some attributes. */
  lacking(scope: Scope, attributes: readonly string[]): Promise<number[]>;
  /** The values of an attribute that occur, most frequent first; members of sets one by one. */
  values(scope: Scope, attribute: string, most: number): Promise<{ value: string; count: number }[]>;
  /** The faces of a document that contacts get, largest first. */
  faces(scope: Scope, setting: Setting, content: Content): Promise<FaceCount[]>;
  list(scope: Scope, setting: Setting, query: ListQuery): Promise<{ ids: number[]; matching: number }>;
  /** To be awaited after contacts were written: the next question sees them. All of them where no ids are given. */
  changed(ids?: readonly number[]): Promise<void>;
  /**
   * Writes down what is in memory for the next start, where it is kept and anything is new; says whether it did.
   *
   * @param position in the log of changes, up to which everything was told of here
   */
  keep(position: number): Promise<boolean>;
  stop(): Promise<void>;
}

export type Asked = {
  [Name in Exclude<keyof AsksPeople, 'stop'>]: { name: Name; args: Parameters<AsksPeople[Name]> };
}[Exclude<keyof AsksPeople, 'stop'>];
