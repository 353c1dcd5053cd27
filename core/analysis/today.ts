import { numberFormat } from '../attributes/formatters.ts';
import type { Audience } from '../audiences/audience.ts';
import { all, type Condition, leavesOf, not, test } from '../conditions/condition.ts';
import { decidedBy } from '../conditions/decided-by.ts';
import { type ConditionFinding, type ConditionRepair, type Names, quotePart } from './finding.ts';
import type { todayKinds } from './today-kinds.ts';

export type TodayFinding = ConditionFinding<(typeof todayKinds)[number]>;

/** What has to be counted among the contacts, and what the counts say; one count for each condition, in order. */
export interface TodayQuestion {
  readonly conditions: readonly Condition[];
  read(counts: readonly number[]): TodayFinding[];
}

/** Audiences that a condition is held against; of more, the first. */
const mostOthers = 60;

/**
 * What is so about a condition only for the contacts there are today: nobody is in it, only people who lack a value, the
 * same people as in another audience or some of them. Where a visit or an item decides, contacts alone say nothing; where the
 * time decides, only that nobody is in it right now.
 *
 * @param others sound audiences other than the one being written
 */
export function aboutToday(condition: Condition, others: readonly Audience[], names: Names): TodayQuestion {
  const byId = new Map(others.map((audience) => [audience.id, audience.condition]));
  const deciding = (of: Condition) => decidedBy(of, (id) => byId.get(id), names.catalogue);
  const sources = deciding(condition);
  if (sources.has('visit') || sources.has('item')) return { conditions: [], read: () => [] };
  const isTimed = sources.has('moment');
  const together = condition.kind === 'all' && condition.of.length > 1 ? condition.of : [];
  const parts = together.filter((part) => !deciding(part).has('moment'));
  const without = parts.map((part) => all(...together.filter((other) => other !== part)));
  const lackable = testedForMore(condition, names);
  const against = isTimed
    ? []
    : others.filter(({ id }) => !namesAudience(condition, id)).slice(0, mostOthers);
  const conditions = [
    condition,
    ...without,
    ...lackable.map((id) => all(condition, test(id, 'has-value'))),
    ...against.flatMap(({ id }): Condition[] => [
      { kind: 'audience', audience: id },
      all(condition, { kind: 'audience', audience: id }),
    ]),
  ];
  return {
    conditions,
    read(counts) {
      const [own = 0] = counts;
      const rest = counts.slice(1);
      const left = rest.splice(0, without.length);
      const having = rest.splice(0, lackable.length);
      if (own === 0) return [nobody(isTimed, parts, without, left, names)];
      return [
        ...lackable.flatMap((id, at) => (having[at] === 0 ? [onlyLacking(condition, id, own, names)] : [])),
        ...alike(own, against, rest),
      ];
    },
  };
}

function nobody(
  isTimed: boolean,
  parts: readonly Condition[],
  without: readonly Condition[],
  left: readonly number[],
  names: Names,
): TodayFinding {
  const repairs = parts.flatMap((part, at) => {
    const [people = 0, rest] = [left[at], without[at]];
    return people > 0 && rest ? [{ label: `Remove ${quotePart(part, names)}`, condition: rest, people }] : [];
  });
  return {
    kind: isTimed ? 'nobody-now' : 'nobody-today',
    severity: isTimed ? 'note' : 'careful',
    sentence: isTimed
      ? 'No contact is in it right now; it depends on the time.'
      : 'No contact is in it today, though somebody could be.',
    people: undefined,
    // What loosens it least comes first.
    repairs: repairs
      .sort((one, two) => one.people - two.people)
      .map(({ label, condition }) => ({ label, condition, joins: condition, leaves: null })),
  };
}

function edit(label: string, before: Condition, condition: Condition): ConditionRepair {
  return { label, condition, joins: all(condition, not(before)), leaves: all(before, not(condition)) };
}

function onlyLacking(condition: Condition, id: string, people: number, names: Names): TodayFinding {
  const label = names.catalogue.get(id)?.label ?? id;
  const saidSo = sayingLack(condition, id);
  return {
    kind: 'only-lacking',
    severity: 'careful',
    sentence: `Everybody in it is there for lack of a value: ${people === 1 ? 'the one person has' : `all ${said(people)} have`} no ${label}.`,
    people: undefined,
    repairs: saidSo ? [edit(`Say so: has no ${label}`, condition, saidSo)] : [],
  };
}

function alike(own: number, against: readonly Audience[], counts: readonly number[]): TodayFinding[] {
  const held = against
    .map((audience, at) => ({ audience, theirs: counts[2 * at] ?? 0, both: counts[2 * at + 1] ?? 0 }))
    .filter(({ both }) => both === own);
  const same = held.find(({ theirs }) => theirs === own);
  const base = { people: undefined, repairs: [] };
  if (same)
    return [
      {
        ...base,
        kind: 'same-today',
        severity: 'note',
        sentence: `The same ${said(own)} as “${same.audience.name}”, among today’s contacts only.`,
      },
    ];
  const [smallest] = held.sort((one, two) => one.theirs - two.theirs);
  if (!smallest) return [];
  return [
    {
      ...base,
      kind: 'contained-today',
      severity: 'note',
      sentence: `Everybody in it is in “${smallest.audience.name}” too, among today’s contacts only.`,
    },
  ];
}

/** The contact's attributes that a condition together for more than whether there is a value. */
function testedForMore(condition: Condition, { catalogue }: Names): string[] {
  const [more, lack] = [new Set<string>(), new Set<string>()];
  for (const leaf of leavesOf(condition)) {
    if (leaf.kind !== 'test' || catalogue.get(leaf.attribute)?.source !== 'contact') continue;
    if (leaf.op === 'has-no-value' || leaf.op === 'has-value') lack.add(leaf.attribute);
    else more.add(leaf.attribute);
  }
  return [...more].filter((id) => !lack.has(id));
}

/** The condition with "not …" about an attribute put as "has no value"; undefined where no such part stands alone. */
function sayingLack(condition: Condition, id: string): Condition | undefined {
  const isAbout = (part: Condition): boolean =>
    part.kind === 'not' && [...leavesOf(part)].every((leaf) => leaf.kind === 'test' && leaf.attribute === id);
  if (isAbout(condition)) return all(test(id, 'has-no-value'));
  if (condition.kind !== 'all' || !condition.of.some(isAbout)) return undefined;
  return all(...condition.of.filter((part) => !isAbout(part)), test(id, 'has-no-value'));
}

function namesAudience(condition: Condition, audience: string): boolean {
  for (const leaf of leavesOf(condition))
    if (leaf.kind === 'audience' && leaf.audience === audience) return true;
  return false;
}

function said(people: number): string {
  return people === 1 ? '1 person' : `${numberFormat('en-GB').format(people)} people`;
}
