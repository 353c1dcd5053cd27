import type { Catalogue } from '../attributes/catalogue.ts';
import type { Condition } from '../conditions/condition.ts';
import { say } from '../conditions/words.ts';
import type { Content } from '../documents/document.ts';
import type { todayKinds } from './today-kinds.ts';

/** A note says what is so, without anything to mend. */
export type Severity = 'wrong' | 'careful' | 'note';

/** Something proved about a document, for every possible viewer. */
export interface DocumentFinding {
  kind:
    | 'never-true'
    | 'over'
    | 'needs-sign-in'
    | 'needs-visit'
    | 'shadowed'
    | 'always-true'
    | 'gap'
    | 'everyone-else-unreached'
    | 'order'
    | 'deviates'
    | 'no-fallback';
  severity: Severity;
  /** The slot it is about; undefined where it is about a block outside any. */
  slot: string | undefined;
  /** The variant it is about; null where it is about everyone else, the whole slot or a block. */
  variant: string | null;
  /** The block it is about, where that is not a slot. */
  block: string | undefined;
  sentence: string;
  /** Who is meant, for counting how many of them there are today; undefined where nobody in particular is. */
  people: Condition | undefined;
  repairs: readonly { label: string; content: Content }[];
}

/** What is proved about a condition, for every possible person. */
const provedKinds = [
  'never-true',
  'always-true',
  'no-effect',
  'empty-group',
  'over',
  'needs-visit',
  'same',
  'contained',
] as const;

export interface ConditionFinding<
  Kind extends string = (typeof provedKinds)[number] | (typeof todayKinds)[number],
> {
  kind: Kind;
  severity: Severity;
  sentence: string;
  people: Condition | undefined;
  repairs: readonly { label: string; condition: Condition }[];
}

export interface Names {
  readonly catalogue: Catalogue;
  readonly audience: (id: string) => string | undefined;
}

export function sayPart(part: Condition, names: Names): string {
  return say(part, names.catalogue, names.audience);
}
