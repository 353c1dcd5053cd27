// Says what a condition means, and by trying everything what a document can show. Written from the description of what
// each test means alone: it uses nothing of the program but the shapes of conditions and documents.
import rrule from 'rrule';
import type { Condition, Test } from '../../core/conditions/condition.ts';
import type { Node } from '../../core/documents/document.ts';
import { end, groups, now, type RandomDocument, tagIds, tierIds } from './random-documents.ts';

const { RRule } = rrule;
const quarter = 900_000;
const dayLength = 86_400_000;

/** What clocks of a zone show at each quarter of an hour of two years, and before and after for windows. */
interface Clock {
  readonly weekday: readonly string[];
  readonly month: readonly string[];
  /** Local day, counted from 1970, and minutes since midnight. */
  readonly day: readonly number[];
  readonly minute: readonly number[];
  /** For each local day and minute the first instant that shows it. */
  readonly first: ReadonlyMap<number, number>;
}

const margin = 60 * dayLength;
const clocks = new Map<string, Clock>();

function clockOf(zone: string): Clock {
  const known = clocks.get(zone);
  if (known) return known;
  const format = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    weekday: 'long',
    year: 'numeric',
    month: 'long',
    day: 'numeric',
    hour: 'numeric',
    minute: 'numeric',
    hourCycle: 'h23',
  });
  const first = new Map<number, number>();
  const clock = {
    weekday: [] as string[],
    month: [] as string[],
    day: [] as number[],
    minute: [] as number[],
    first,
  };
  for (let instant = now - margin; instant <= end + margin; instant += quarter) {
    const parts = Object.fromEntries(format.formatToParts(instant).map(({ type, value }) => [type, value]));
    const day = Date.parse(`${parts.day} ${parts.month} ${parts.year} UTC`) / dayLength;
    const minute = 60 * Number(parts.hour) + Number(parts.minute);
    if (!first.has(1440 * day + minute)) first.set(1440 * day + minute, instant);
    if (instant < now || instant > end) continue;
    clock.weekday.push(String(parts.weekday).toLowerCase());
    clock.month.push(String(parts.month).toLowerCase());
    clock.day.push(day);
    clock.minute.push(minute);
  }
  clocks.set(zone, clock);
  return clock;
}

/** The instant at which clocks show a local time: the first, or after a gap as if clocks had not been put forward. */
function instantOf(local: string, zone: string): number {
  const { first } = clockOf(zone);
  const wanted = Date.parse(`${local}Z`) / 60_000;
  const found = first.get(wanted);
  if (found !== undefined) return found;
  // In a gap: as long after the same time the day before as there are hours in a day.
  return (first.get(wanted - 1440) ?? Number.NaN) + dayLength;
}

const bool = (holds: boolean[]) => Uint8Array.from(holds, Number);

/** For each quarter of an hour whether a test of the moment holds. */
function momentAnswers(test: Test, zone: string): Uint8Array {
  const clock = clockOf(zone);
  const instants = clock.day.map((_, index) => now + index * quarter);
  const [first = '', second = '', third = ''] = test.values;
  switch (`${test.attribute} ${test.op}`) {
    case 'moment-weekday is-one-of':
      return bool(clock.weekday.map((name) => test.values.includes(name)));
    case 'moment-month is-one-of':
      return bool(clock.month.map((name) => test.values.includes(name)));
    case 'moment-time between': {
      const minutes = (text: string | number) =>
        60 * Number(String(text).slice(0, 2)) + Number(String(text).slice(3));
      const [from, to] = [minutes(first), minutes(second)];
      return bool(
        clock.minute.map((minute) =>
          from < to ? minute >= from && minute < to : minute >= from || minute < to,
        ),
      );
    }
    case 'moment from': {
      const from = instantOf(String(first), zone);
      return bool(instants.map((instant) => instant >= from));
    }
    case 'moment before': {
      const to = instantOf(String(first), zone);
      return bool(instants.map((instant) => instant < to));
    }
    case 'moment between': {
      const [from, to] = [instantOf(String(first), zone), instantOf(String(second), zone)];
      return bool(instants.map((instant) => instant >= from && instant < to));
    }
    case 'moment recurs': {
      const rule = new RRule({ ...RRule.parseString(String(third)), dtstart: new Date(`${first}:00Z`) });
      const length = Number(second) * 60_000;
      const windows = rule
        .between(new Date(now - 40 * dayLength), new Date(end + dayLength), true)
        .map((date) => instantOf(date.toISOString().slice(0, 16), zone));
      const answers = new Uint8Array(instants.length);
      for (const from of windows)
        for (
          let at = Math.max(0, Math.ceil((from - now) / quarter));
          at < answers.length && now + at * quarter < from + length;
          at++
        )
          answers[at] = 1;
      return answers;
    }
    default:
      throw new Error(`no moment ${test.attribute} ${test.op}`);
  }
}

const dayOf = (text: string | number) => Date.parse(`${text}T00:00:00Z`) / dayLength;
const monthDays = new Map<number, string>();
function monthDay(day: number): string {
  let text = monthDays.get(day);
  if (text === undefined) {
    text = new Date(day * dayLength).toISOString().slice(5, 10);
    monthDays.set(day, text);
  }
  return text;
}

const rounds = new Map<string, ReadonlySet<string>>();
/** The days of the year that come round from today within some days, the 29th of February on the 28th without one. */
function comingRound(today: number, within: number): ReadonlySet<string> {
  const key = `${today} ${within}`;
  const known = rounds.get(key);
  if (known) return known;
  const found = new Set<string>();
  for (let at = today; at <= today + Math.min(within, 366); at++) {
    found.add(monthDay(at));
    if (monthDay(at) === '02-28' && monthDay(at + 1) === '03-01') found.add('02-29');
  }
  rounds.set(key, found);
  return found;
}

function renewalHolds({ op, values: [first = ''] }: Test, day: number, today: number): boolean {
  switch (op) {
    case 'on':
      return day === dayOf(first);
    case 'before':
      return day < dayOf(first);
    case 'after':
      return day > dayOf(first);
    case 'within-next':
      return day >= today && day <= today + Number(first);
    case 'within-last':
      return day <= today && day >= today - Number(first);
    case 'anniversary-within':
      return comingRound(today, Number(first)).has(monthDay(day));
    default:
      throw new Error(op);
  }
}

/** What a test of a contact's own value means; `undefined` is a missing value, which fails every test but “not …”. */
function holds(test: Test, value: unknown): boolean {
  const { op, values } = test;
  const [first = '', second = ''] = values;
  if (op === 'has-value') return value !== undefined;
  if (op === 'has-no-value') return value === undefined;
  if (op === 'is-none-of') return !holds({ ...test, op: 'is-one-of' }, value);
  if (op === 'includes-none') return !holds({ ...test, op: 'includes-any' }, value);
  if (value === undefined) return false;
  if (Array.isArray(value)) {
    const has = (one: string | number) => value.includes(one);
    return op === 'includes-all' ? values.every(has) : values.some(has);
  }
  if (test.attribute === 'tier') {
    const [own, bound] = [tierIds.indexOf(String(value)), tierIds.indexOf(String(first))];
    if (op === 'at-least') return own >= bound;
    if (op === 'at-most') return own <= bound;
    return values.includes(String(value));
  }
  if (typeof value === 'string') {
    // None of the texts here has an accent.
    const [text, part] = [value.toLowerCase(), String(first).toLowerCase()];
    if (op === 'contains') return text.includes(part);
    if (op === 'starts-with') return text.startsWith(part);
    if (op === 'ends-with') return text.endsWith(part);
    return values.some((one) => String(one).toLowerCase() === text);
  }
  const number = Number(value);
  switch (op) {
    case 'equals':
      return number === Number(first);
    case 'at-least':
      return number >= Number(first);
    case 'at-most':
      return number <= Number(first);
    case 'more-than':
      return number > Number(first);
    case 'fewer-than':
      return number < Number(first);
    default:
      return number >= Number(first) && number <= Number(second);
  }
}

/** Values of an attribute, enough to meet every answer that its tests can have together. */
function valuesOf(attribute: string, tests: readonly Test[]): unknown[] {
  switch (attribute) {
    case 'tier':
      return [undefined, ...tierIds];
    case 'orders':
      return [undefined, ...Array.from({ length: 14 }, (_, index) => index - 2)];
    case 'city': {
      // Every text of up to six letters that tell anything apart, or one that does not.
      const texts = [''];
      for (let at = 0; (texts[at]?.length ?? 6) < 6; at++)
        for (const letter of 'abx') texts.push(`${texts[at]}${letter}`);
      return [undefined, ...texts.slice(1)];
    }
    case 'tags': {
      const named = [...new Set(tests.flatMap(({ values }) => values.map(String)))];
      let sets: string[][] = [[]];
      for (const id of named) sets = sets.concat(sets.map((set) => [...set, id]));
      const other = tagIds.at(-1) ?? '';
      return sets
        .flatMap((set) => [set, [...set, other]])
        .filter((set) => groups.every((group) => set.filter((id) => group.includes(id)).length <= 1))
        .map((set) => (set.length > 0 ? set : undefined));
    }
    default:
      throw new Error(attribute);
  }
}

/** The tests that a document asks, by attribute; those of the moment, and of dates that count from it, together. */
function testsOf(document: RandomDocument): Map<string, Test[]> {
  const found = new Map<string, Map<string, Test>>();
  const walk = (condition: Condition): void => {
    if (condition.kind === 'not') walk(condition.of);
    else if (condition.kind === 'all' || condition.kind === 'any') condition.of.forEach(walk);
    else if (condition.kind === 'test') {
      const timed = condition.attribute.startsWith('moment') || condition.attribute === 'renewal';
      const place = timed ? 'time' : condition.attribute;
      const own = found.get(place) ?? new Map<string, Test>();
      own.set(keyOf(condition), condition);
      found.set(place, own);
    }
  };
  for (const { condition } of document.audiences) walk(condition);
  return new Map([...found].map(([place, tests]) => [place, [...tests.values()]]));
}

export function keyOf({ attribute, op, values }: Test): string {
  return JSON.stringify([attribute, op, values]);
}

/** Answers of some tests that there can be together, those of a missing value among them. */
export interface Ways {
  readonly keys: readonly string[];
  readonly ways: readonly (readonly boolean[])[];
  /** Which of the ways there are for somebody without any values. */
  readonly anonymous: readonly (readonly boolean[])[];
}

/** Every combination of answers that the moment and a date can have together within two years from now. */
function timedWays(tests: readonly Test[], zone: string): Ways {
  const moments = tests.filter(({ attribute }) => attribute !== 'renewal');
  const renewals = tests.filter(({ attribute }) => attribute === 'renewal');
  const answers = moments.map((test) => momentAnswers(test, zone));
  const clock = clockOf(zone);
  const fixed = renewals.flatMap(({ op, values }) =>
    ['on', 'before', 'after'].includes(op) ? [dayOf(values[0] ?? '')] : [],
  );
  // Answers as the bits of a number, those about the moment above those about the date.
  const missing = bits(renewals.map(({ op }) => op === 'has-no-value'));
  const [found, anonymous, seen] = [new Set<number>(), new Set<number>(), new Set<number>()];
  const ofDays = new Map<number, ReadonlySet<number>>();
  for (let at = 0; at < clock.day.length; at++) {
    let own = 0;
    for (const answer of answers) own = 2 * own + (answer[at] ?? 0);
    const today = clock.day[at] ?? 0;
    const key = renewals.length > 0 ? own * 100_000 + today : own;
    if (seen.has(key)) continue;
    seen.add(key);
    const above = own * 2 ** renewals.length;
    anonymous.add(above + missing);
    let ofDay = ofDays.get(today);
    if (!ofDay) {
      ofDay = renewalAnswers(renewals, fixed, today);
      ofDays.set(today, ofDay);
    }
    for (const renewal of [missing, ...ofDay]) found.add(above + renewal);
  }
  const count = tests.length;
  const spelled = (codes: ReadonlySet<number>) =>
    [...codes].map((code) =>
      Array.from({ length: count }, (_, at) => Math.floor(code / 2 ** (count - 1 - at)) % 2 === 1),
    );
  return { keys: [...moments, ...renewals].map(keyOf), ways: spelled(found), anonymous: spelled(anonymous) };
}

function bits(holds: readonly boolean[]): number {
  return holds.reduce((code, is) => 2 * code + Number(is), 0);
}

function renewalAnswers(
  renewals: readonly Test[],
  fixed: readonly number[],
  today: number,
): ReadonlySet<number> {
  const found = new Set<number>();
  if (renewals.length === 0) return found;
  const look = (day: number) =>
    found.add(
      bits(
        renewals.map((test) => {
          if (test.op === 'has-value') return true;
          return test.op !== 'has-no-value' && renewalHolds(test, day, today);
        }),
      ),
    );
  for (const base of [today, ...fixed]) for (let by = -20; by <= 20; by++) look(base + by);
  if (!renewals.some(({ op }) => op === 'anniversary-within')) {
    for (const day of [today - 9000, today + 9000]) look(day);
    return found;
  }
  // Every day between what is named, and those of a leap year long before and long after it.
  const [least, most] = [Math.min(today, ...fixed), Math.max(today, ...fixed)];
  for (let day = least - 40; day <= most + 40; day++) look(day);
  for (const leapYear of ['1992-01-01', '2056-01-01'])
    for (let by = 0; by < 366; by++) look(dayOf(leapYear) + by);
  return found;
}

/** For each attribute, and for all that depends on time, every combination of answers that its tests can have. */
export function waysOf(document: RandomDocument): Map<string, Ways> {
  const ways = new Map<string, Ways>();
  for (const [place, tests] of testsOf(document)) {
    if (place === 'signed-in') continue;
    if (place === 'time') {
      ways.set(place, timedWays(tests, document.zone));
      continue;
    }
    const found = new Map<string, boolean[]>();
    for (const value of valuesOf(place, tests)) {
      const own = tests.map((test) => holds(test, value));
      found.set(own.join(), own);
    }
    const missing = tests.map((test) => holds(test, undefined));
    ways.set(place, { keys: tests.map(keyOf), ways: [...found.values()], anonymous: [missing] });
  }
  return ways;
}

/** Every combination of choices that a viewer who may open a document can get, as texts; -2 for a slot that is hidden. */
export function facesByForce(document: RandomDocument): Set<string> {
  const ways = [...waysOf(document)];
  const faces = new Set<string>();
  for (const state of ['anonymous', 'recognised', 'signed-in'] as const) {
    const answers = new Map<string, boolean>();
    const go = (at: number): void => {
      const [, own] = ways[at] ?? [];
      if (!own) {
        const face = faceOf(document, answers, state === 'signed-in');
        if (face !== undefined) faces.add(face);
        return;
      }
      for (const way of state === 'anonymous' ? own.anonymous : own.ways) {
        for (const [index, key] of own.keys.entries()) answers.set(key, way[index] ?? false);
        go(at + 1);
      }
    };
    go(0);
  }
  return faces;
}

function faceOf(
  document: RandomDocument,
  answers: ReadonlyMap<string, boolean>,
  signedIn: boolean,
): string | undefined {
  const known = new Map<string, boolean>();
  const isIn = (id: string): boolean => {
    const found = known.get(id);
    if (found !== undefined) return found;
    const audience = document.audiences.find((one) => one.id === id);
    const made = audience !== undefined && ask(audience.condition);
    known.set(id, made);
    return made;
  };
  const ask = (condition: Condition): boolean => {
    switch (condition.kind) {
      case 'test':
        if (condition.attribute === 'signed-in') return (condition.op === 'is-yes') === signedIn;
        return answers.get(keyOf(condition)) ?? false;
      case 'audience':
        return isIn(condition.audience);
      case 'not':
        return !ask(condition.of);
      case 'all':
        return condition.of.every(ask);
      case 'any':
        return condition.of.some(ask);
    }
  };
  if (document.access !== undefined && !isIn(document.access)) return undefined;
  const choices: number[] = [];
  const walk = (nodes: readonly Node[], visible: boolean): void => {
    for (const node of nodes) {
      if (node.kind !== 'slot') continue;
      const choice = visible ? node.variants.findIndex(({ audience }) => isIn(audience)) : -2;
      choices.push(choice);
      for (const [index, variant] of node.variants.entries()) walk(variant.content, choice === index);
      walk(node.otherwise, choice === -1);
    }
  };
  walk(document.content.body, true);
  return choices.join();
}
