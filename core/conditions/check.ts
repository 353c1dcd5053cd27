import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { dayNumber } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import type { Fact, Facts } from '../attributes/viewer.ts';
import type { Condition, Test } from './condition.ts';

/** A condition made ready to run. `ask` answers for another audience by the index that planning gave it. */
export type Check = (facts: Facts, ask: (audience: number) => boolean) => boolean;

/** Case and accents folded, for the tests on parts of a text. */
export function fold(text: string): string {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
}

/**
 * Plans a condition once so that running it is cheap. The condition must be free of problems (see validate.ts);
 * one that is not throws an Error here, never while running.
 */
export function plan(
  condition: Condition,
  catalogue: Catalogue,
  audienceIndex: (id: string) => number | undefined,
): Check {
  switch (condition.kind) {
    case 'test':
      return planTest(condition, catalogue);
    case 'audience': {
      const index = audienceIndex(condition.audience);
      if (index === undefined) throw new Error(`no audience “${condition.audience}”`);
      return (_facts, ask) => ask(index);
    }
    case 'not': {
      const check = plan(condition.of, catalogue, audienceIndex);
      return (facts, ask) => !check(facts, ask);
    }
    case 'all': {
      const checks = condition.of.map((part) => plan(part, catalogue, audienceIndex));
      return (facts, ask) => {
        for (const check of checks) if (!check(facts, ask)) return false;
        return true;
      };
    }
    case 'any': {
      const checks = condition.of.map((part) => plan(part, catalogue, audienceIndex));
      return (facts, ask) => {
        for (const check of checks) if (check(facts, ask)) return true;
        return false;
      };
    }
  }
}

function planTest(test: Test, catalogue: Catalogue): Check {
  const place = catalogue.indexOf(test.attribute);
  const attribute = catalogue.get(test.attribute);
  if (place === undefined || !attribute) throw new Error(`no attribute “${test.attribute}”`);
  const holds = factTest(test, attribute);
  return (facts) => holds(facts.values[place], facts.today);
}

type FactTest = (fact: Fact, today: number) => boolean;

function factTest(test: Test, attribute: Attribute): FactTest {
  if (test.op === 'has-value') return (fact) => fact !== undefined;
  if (test.op === 'has-no-value') return (fact) => fact === undefined;
  switch (attribute.type) {
    case 'yes-no':
      return yesNoTest(test);
    case 'choice':
      return choiceTest(test, attribute);
    case 'set':
      return setTest(test);
    case 'number':
      return numberTest(test);
    case 'date':
      return dateTest(test);
    case 'text':
      return textTest(test);
  }
}

function yesNoTest(test: Test): FactTest {
  if (test.op === 'is-yes') return (fact) => fact === true;
  if (test.op === 'is-no') return (fact) => fact === false;
  return unknownOperator(test);
}

function choiceTest(test: Test, attribute: Attribute): FactTest {
  const order = choicesOf(attribute).map((choice) => choice.id);
  const upTo = (from: number, to: number) => memberTest(new Set(order.slice(from, to + 1)));
  const [first = '', second = ''] = test.values.map(String);
  switch (test.op) {
    case 'is-one-of':
      return memberTest(new Set(test.values.map(String)));
    case 'is-none-of': {
      const within = memberTest(new Set(test.values.map(String)));
      return (fact, today) => !within(fact, today);
    }
    case 'at-least':
      return upTo(order.indexOf(first), order.length);
    case 'at-most':
      return upTo(0, order.indexOf(first));
    case 'between':
      return upTo(order.indexOf(first), order.indexOf(second));
    default:
      return unknownOperator(test);
  }
}

function memberTest(members: ReadonlySet<string>): FactTest {
  const [only] = members;
  if (members.size === 1) return (fact) => fact === only;
  return (fact) => typeof fact === 'string' && members.has(fact);
}

function setTest(test: Test): FactTest {
  const wanted = test.values.map(String);
  const includesAny: FactTest = (fact) => Array.isArray(fact) && wanted.some((value) => fact.includes(value));
  switch (test.op) {
    case 'includes-any':
      return includesAny;
    case 'includes-none':
      return (fact, today) => !includesAny(fact, today);
    case 'includes-all':
      return (fact) => Array.isArray(fact) && wanted.every((value) => fact.includes(value));
    default:
      return unknownOperator(test);
  }
}

function numberTest(test: Test): FactTest {
  const [first = Number.NaN, second = Number.NaN] = test.values.map(Number);
  switch (test.op) {
    case 'equals':
      return (fact) => fact === first;
    case 'at-least':
      return (fact) => typeof fact === 'number' && fact >= first;
    case 'at-most':
      return (fact) => typeof fact === 'number' && fact <= first;
    case 'more-than':
      return (fact) => typeof fact === 'number' && fact > first;
    case 'fewer-than':
      return (fact) => typeof fact === 'number' && fact < first;
    case 'between':
      return (fact) => typeof fact === 'number' && fact >= first && fact <= second;
    default:
      return unknownOperator(test);
  }
}

function dateTest(test: Test): FactTest {
  const [value, other] = test.values;
  if (test.op === 'within-last' || test.op === 'within-next') {
    const days = Number(value);
    return test.op === 'within-last'
      ? (fact, today) => typeof fact === 'number' && fact <= today && fact >= today - days
      : (fact, today) => typeof fact === 'number' && fact >= today && fact <= today + days;
  }
  const first = dayNumber(String(value)) ?? Number.NaN;
  switch (test.op) {
    case 'on':
      return (fact) => fact === first;
    case 'before':
      return (fact) => typeof fact === 'number' && fact < first;
    case 'after':
      return (fact) => typeof fact === 'number' && fact > first;
    case 'between': {
      const last = dayNumber(String(other)) ?? Number.NaN;
      return (fact) => typeof fact === 'number' && fact >= first && fact <= last;
    }
    default:
      return unknownOperator(test);
  }
}

function textTest(test: Test): FactTest {
  if (test.op === 'is-one-of') return memberTest(new Set(test.values.map(String)));
  if (test.op === 'is-none-of') {
    const within = memberTest(new Set(test.values.map(String)));
    return (fact, today) => !within(fact, today);
  }
  const part = fold(String(test.values[0]));
  switch (test.op) {
    case 'contains':
      return (fact) => typeof fact === 'string' && fold(fact).includes(part);
    case 'starts-with':
      return (fact) => typeof fact === 'string' && fold(fact).startsWith(part);
    case 'ends-with':
      return (fact) => typeof fact === 'string' && fold(fact).endsWith(part);
    default:
      return unknownOperator(test);
  }
}

function unknownOperator(test: Test): never {
  throw new Error(`no test “${test.op}” on “${test.attribute}”`);
}
