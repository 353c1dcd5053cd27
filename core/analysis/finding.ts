import type { Catalogue } from '../attributes/catalogue.ts';
import { formatValue } from '../attributes/format.ts';
import { listFormat } from '../attributes/formatters.ts';
import type { Condition } from '../conditions/condition.ts';
import { say } from '../conditions/words.ts';
import type { Content } from '../documents/document.ts';
import type { todayKinds } from './today-kinds.ts';

/** A note says what is so, without anything to mend. */
export type Severity = 'wrong' | 'careful' | 'note';
export const severities = ['wrong', 'careful', 'note'] as const satisfies readonly Severity[];

/** An edit that was checked: it removes the finding and causes none that is worse. */
export interface OfferedRepair {
  readonly label: string;
  /** Who sees something else after it; null where that is proved to be nobody. */
  readonly changes: Condition | null;
}

/** A repair with what the document is after it. */
export interface DocumentRepair extends OfferedRepair {
  readonly content: Content;
}

/** Something proved about a document, for every possible viewer. */
export interface DocumentFinding<Repair = DocumentRepair> {
  kind:
    | 'never-true'
    | 'not-here'
    | 'circle'
    | 'over'
    | 'coming'
    | 'needs-sign-in'
    | 'needs-visit'
    | 'shadowed'
    | 'always-true'
    | 'gap'
    | 'one-slot'
    | 'gap-between'
    | 'everyone-else-unreached'
    | 'order'
    | 'deviates'
    | 'no-fallback'
    | 'not-proved';
  severity: Severity;
  /** The slot it is about; undefined where it is about a block outside any. */
  slot: string | undefined;
  /** The variant it is about; null where it is about everyone else, the whole slot or a block. */
  variant: string | null;
  /** The block it is about, where that is not a slot. */
  block: string | undefined;
  sentence: string;
  /** Who can meet it, for counting how many of them there are today; undefined where nobody in particular is meant. */
  people: Condition | undefined;
  repairs: readonly Repair[];
}

/** Something proved about a condition, for every possible person. */
const provedKinds = [
  'never-true',
  'always-true',
  'no-effect',
  'empty-group',
  'over',
  'coming',
  'past-midnight',
  'needs-visit',
  'same',
  'contained',
  'not-proved',
] as const;

/** An edit of a condition that was tried, as {@link DocumentRepair}. */
export interface ConditionRepair {
  readonly label: string;
  readonly condition: Condition;
  /** Who comes in and who goes out by it; null where that is proved to be nobody. */
  readonly joins: Condition | null;
  readonly leaves: Condition | null;
}

export interface ConditionFinding<
  Kind extends string = (typeof provedKinds)[number] | (typeof todayKinds)[number],
> {
  kind: Kind;
  severity: Severity;
  sentence: string;
  people: Condition | undefined;
  repairs: readonly ConditionRepair[];
}

export interface Names {
  readonly catalogue: Catalogue;
  readonly audience: (id: string) => string | undefined;
}

/** A condition as it reads, in quotation marks; an audience by its name. */
export function quotePart(part: Condition, names: Names): string {
  if (part.kind === 'audience') return quoteAudience(part.audience, names);
  return `“${say(part, names.catalogue, names.audience)}”`;
}

/** The name of an audience in quotation marks. */
export function quoteAudience(id: string, names: Names): string {
  const name = names.audience(id);
  return name === undefined ? 'a deleted audience' : `“${name}”`;
}

/** An instant as a date and time of the site, such as "1 December 2026 at 09:00". */
export function sayInstant(instant: number, { catalogue }: Names): string {
  const moment = catalogue.get('moment');
  return moment ? formatValue(moment, new Date(instant).toISOString(), 'en-GB', catalogue.zone) : '';
}

/** "a", "a and b", "a, b and c". */
export function listed(words: readonly string[]): string {
  return listFormat('en-GB').format(words);
}

/** "a", "a or b", "a, b or c". */
export function either(words: readonly string[]): string {
  return listFormat('en-GB', { type: 'disjunction' }).format(words);
}
