import { isoDate, localDay } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { lookup } from '../attributes/languages.ts';
import { addressNumber, contains } from '../attributes/networks.ts';
import { matchesPattern } from '../attributes/patterns.ts';
import { fold } from '../attributes/text-folding.ts';
import type { Fact, Facts } from '../attributes/viewer.ts';
import type { Condition, Test } from './condition.ts';
import { anniversaryDays, meaningOf, type Question, type Range } from './meaning.ts';
import { Recurrence } from './recurrence.ts';

/** A compiled condition. */
export type Predicate = (facts: Facts) => boolean;

/**
 * Compiles a condition that names no audience. It must be free of problems (see validate.ts); one that is not throws an
 * Error here, never while running. Audiences that build on each other are asked through a Program.
 */
export function compile(condition: Condition, catalogue: Catalogue): Predicate {
  switch (condition.kind) {
    case 'test': {
      const { place, holds } = compileTest(condition, catalogue);
      return (facts) => holds(facts.at(place), facts);
    }
    case 'audience':
      throw new Error(`“${condition.audience}” is an audience, not a condition of its own`);
    case 'not': {
      const holds = compile(condition.of, catalogue);
      return (facts) => !holds(facts);
    }
    case 'all': {
      const parts = condition.of.map((part) => compile(part, catalogue));
      return (facts) => parts.every((holds) => holds(facts));
    }
    case 'any': {
      const parts = condition.of.map((part) => compile(part, catalogue));
      return (facts) => parts.some((holds) => holds(facts));
    }
  }
}

/** Whether a test holds for a value; `facts` is who has it, for tests against today or another attribute. */
export type FactTest = (fact: Fact, facts: Facts) => boolean;

/** A compiled test, with the place of the value it is about. */
export function compileTest(test: Test, catalogue: Catalogue): { place: number; holds: FactTest } {
  const place = catalogue.indexOf(test.attribute);
  const attribute = catalogue.get(test.attribute);
  if (place === undefined || !attribute) throw new Error(`no attribute “${test.attribute}”`);
  const { negated, question } = meaningOf(test, attribute, catalogue);
  const holds = answer(question, attribute.type === 'date-time', catalogue);
  return { place, holds: negated ? (fact, facts) => !holds(fact, facts) : holds };
}

/** What a question asks of the folded form of a text, see fold(); undefined for a question that does not ask for it. */
export function textTest(question: Question): ((folded: string) => boolean) | undefined {
  return question.kind === 'texts' || question.kind === 'part' ? inText(question) : undefined;
}

function inText(question: Extract<Question, { kind: 'texts' | 'part' }>): (folded: string) => boolean {
  if (question.kind === 'texts') return (folded) => question.folded.has(folded);
  const { where, text } = question;
  if (where === 'contains') return (folded) => folded.includes(text);
  return where === 'starts' ? (folded) => folded.startsWith(text) : (folded) => folded.endsWith(text);
}

function answer(question: Question, isInstant: boolean, catalogue: Catalogue): FactTest {
  switch (question.kind) {
    case 'known':
      return (fact) => fact !== undefined;
    case 'among':
      return amongTest(question.values);
    case 'texts':
    case 'part': {
      const holds = inText(question);
      return (fact) => typeof fact === 'string' && holds(fold(fact));
    }
    case 'within':
      return withinTest(question.ranges);
    case 'days-from-today': {
      const { from, to } = question;
      const { zone } = catalogue;
      return (fact, { today }) => {
        if (typeof fact !== 'number') return false;
        const away = (isInstant ? localDay(fact, zone) : fact) - today;
        return away >= from && away <= to;
      };
    }
    case 'anniversary': {
      let [known, days]: [number, ReadonlySet<string>] = [Number.NaN, new Set()];
      return (fact, { today }) => {
        if (typeof fact !== 'number') return false;
        if (known !== today) [known, days] = [today, anniversaryDays(today, question.days)];
        return days.has(isoDate(fact).slice(-5));
      };
    }
    case 'has-any':
      return hasAnyTest(question.values);
    case 'has-all':
      return (fact) => Array.isArray(fact) && question.values.every((value) => fact.includes(value));
    case 'networks':
      return (fact) => typeof fact === 'string' && contains(question.networks, addressNumber(fact));
    case 'languages':
      return (fact) =>
        Array.isArray(fact) && lookup(question.first ? fact.slice(0, 1) : fact, question.tags) !== undefined;
    case 'patterns':
      return (fact) =>
        typeof fact === 'string' && question.patterns.some((pattern) => matchesPattern(pattern, fact));
    case 'recurs': {
      const recurrence = new Recurrence(question.start, question.minutes, question.rule, catalogue.zone);
      return (fact) => typeof fact === 'number' && recurrence.covers(fact);
    }
    case 'same-as': {
      const other = catalogue.indexOf(question.other) ?? -1;
      return (fact, facts) => {
        const own = facts.at(other);
        return typeof fact === 'string' && typeof own === 'string' && fold(fact) === fold(own);
      };
    }
    case 'has-value-of': {
      const other = catalogue.indexOf(question.other) ?? -1;
      return (fact, facts) => {
        const own = facts.at(other);
        return Array.isArray(fact) && typeof own === 'string' && fact.includes(own);
      };
    }
  }
}

function amongTest(values: ReadonlySet<string | boolean>): FactTest {
  const [first, second] = values;
  if (values.size === 0) return () => false;
  if (values.size === 1) return (fact) => fact === first;
  if (values.size === 2) return (fact) => fact === first || fact === second;
  return (fact) => (typeof fact === 'string' || typeof fact === 'boolean') && values.has(fact);
}

function hasAnyTest(values: readonly string[]): FactTest {
  const [only = ''] = values;
  if (values.length === 1) return (fact) => Array.isArray(fact) && fact.includes(only);
  return (fact) => Array.isArray(fact) && values.some((value) => fact.includes(value));
}

function withinTest(ranges: readonly Range[]): FactTest {
  const [only] = ranges;
  if (only && ranges.length === 1) {
    const { from, to, withoutFrom, withoutTo } = only;
    // Half-open from a value to itself is empty: a window that clocks skip, for instance.
    if (from === to) return withoutFrom || withoutTo ? () => false : (fact) => fact === from;
    if (to === Number.POSITIVE_INFINITY)
      return withoutFrom
        ? (fact) => typeof fact === 'number' && fact > from
        : (fact) => typeof fact === 'number' && fact >= from;
    if (!withoutFrom && !withoutTo) return (fact) => typeof fact === 'number' && fact >= from && fact <= to;
  }
  return (fact) => typeof fact === 'number' && ranges.some((range) => isWithin(range, fact));
}

export function isWithin({ from, to, withoutFrom, withoutTo }: Range, number: number): boolean {
  return (withoutFrom ? number > from : number >= from) && (withoutTo ? number < to : number <= to);
}
