import { type Attribute, choicesOf } from '../attributes/attribute.ts';
import { dayNumber, minuteOfDay, readLocalTime } from '../attributes/calendar.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { isCountry } from '../attributes/countries.ts';
import { isLanguageTag } from '../attributes/languages.ts';
import { readNetwork } from '../attributes/networks.ts';
import { type Condition, deepest, mostParts, type Test, withinBounds } from './condition.ts';
import { type OperandKind, type Operator, operandKind, operatorOf } from './operators.ts';
import { longestWindow } from './recurrence.ts';
import { ruleProblem, startProblem } from './recurrence-rule.ts';

/** What is wrong with a part of a condition; `path` leads to the part, such as `of.2.of.values.0`. */
export interface Problem {
  path: string;
  message: string;
}

export interface Surroundings {
  readonly catalogue: Catalogue;
  /** Whether an audience of this id exists. */
  readonly hasAudience: (id: string) => boolean;
}

/** Every error of a condition with its path; empty when the condition can be evaluated. */
export function validate(condition: Condition, surroundings: Surroundings): Problem[] {
  if (!withinBounds(condition))
    return [{ path: '', message: `is nested deeper than ${deepest} or has more than ${mostParts} parts` }];
  const problems: Problem[] = [];
  const walk = (part: Condition, path: readonly (string | number)[]): void => {
    switch (part.kind) {
      case 'test':
        for (const [field, message] of testProblems(part, surroundings.catalogue))
          problems.push({ path: [...path, field].join('.'), message });
        return;
      case 'audience':
        if (!surroundings.hasAudience(part.audience))
          problems.push({
            path: [...path, 'audience'].join('.'),
            message: 'names an audience that no longer exists',
          });
        return;
      case 'not':
        walk(part.of, [...path, 'of']);
        return;
      default:
        part.of.forEach((child, index) => {
          walk(child, [...path, 'of', index]);
        });
    }
  };
  walk(condition, []);
  return problems;
}

function* testProblems(test: Test, catalogue: Catalogue): Generator<[field: string, message: string]> {
  const attribute = catalogue.get(test.attribute);
  if (!attribute) {
    yield ['attribute', `names an attribute that is gone: “${test.attribute}”`];
    return;
  }
  const operator = operatorOf(attribute, test.op);
  if (!operator) {
    yield ['op', `“${test.op}” is no test for ${attribute.label}`];
    return;
  }
  const wanted = arityProblem(operator, test.values.length, attribute);
  if (wanted) {
    yield ['values', wanted];
    return;
  }
  let sound = true;
  for (const [index, value] of test.values.entries()) {
    const message = operandProblem(operandKind(operator, index), value, attribute, catalogue);
    if (message) {
      sound = false;
      yield [`values.${index}`, message];
    }
  }
  if (!sound) return;
  const problem = operator.arity === 'two' ? rangeProblem(test, operator, attribute) : undefined;
  if (problem) yield ['values', problem];
  if (test.op === 'recurs') yield* recurrenceProblems(test);
}

/** A rule must occur on the day that it starts on: RFC 5545, 3.8.5.3, leaves open what it means otherwise. */
function* recurrenceProblems({ values: [start, , rule] }: Test): Generator<[field: string, message: string]> {
  const local = readLocalTime(String(start));
  const problem = local && startProblem(String(rule), local.day);
  if (problem) yield ['values.0', `The rule ${problem}`];
}

function arityProblem(operator: Operator, count: number, attribute: Attribute): string | undefined {
  switch (operator.arity) {
    case 'none':
      return count === 0 ? undefined : 'takes no value';
    case 'one':
      return count === 1 ? undefined : `${attribute.label}: a value is needed`;
    case 'two':
      return count === 2 ? undefined : `${attribute.label}: two values are needed`;
    case 'each':
      return count === operator.operand.length
        ? undefined
        : `${attribute.label}: ${operator.operand.length} values are needed`;
    case 'many':
      return count > 0 ? undefined : `${attribute.label}: choose at least one value`;
  }
}

/** What each kind of operand has to be, in words for "is not …". */
const wantedOperand: Record<Exclude<OperandKind, 'choice' | 'attribute' | 'rule'>, string> = {
  number: 'a number',
  days: 'a number of days from 0 to 36,600',
  minutes: `a number of minutes from 1 to ${longestWindow}`,
  date: 'a date such as 2026-11-29',
  moment: 'a date and time such as 2026-11-29T18:30',
  time: 'a time of day such as 18:30',
  text: 'a text',
  part: 'a text',
  country: 'a country’s two-letter code',
  network: 'a range of addresses such as 203.0.113.0/24, or an address',
  language: 'a language tag such as de or pt-BR',
  path: 'the path of an address, such as /guides/moon',
  pattern: 'the pattern of a path, such as /guides/*',
};

function operandProblem(
  kind: OperandKind,
  value: string | number,
  attribute: Attribute,
  catalogue: Catalogue,
): string | undefined {
  if (kind === 'choice')
    return choicesOf(attribute).some((choice) => choice.id === value)
      ? undefined
      : `“${value}” is not a choice of ${attribute.label}`;
  if (kind === 'attribute') return otherProblem(value, attribute, catalogue);
  if (kind === 'rule') return typeof value === 'string' ? ruleProblem(value) : 'is not a recurrence rule';
  return fits(kind, value) ? undefined : `is not ${wantedOperand[kind]}`;
}

function fits(kind: keyof typeof wantedOperand, value: string | number): boolean {
  if (kind === 'number') return typeof value === 'number' && Number.isFinite(value);
  if (kind === 'days') return Number.isInteger(value) && Number(value) >= 0 && Number(value) <= 36_600;
  if (kind === 'minutes')
    return Number.isInteger(value) && Number(value) >= 1 && Number(value) <= longestWindow;
  if (typeof value !== 'string') return false;
  switch (kind) {
    case 'date':
      return dayNumber(value) !== undefined;
    case 'moment':
      return readLocalTime(value) !== undefined;
    case 'time':
      return minuteOfDay(value) !== undefined;
    case 'text':
    case 'part':
      return value !== '';
    case 'country':
      return isCountry(value);
    case 'network':
      return readNetwork(value) !== undefined;
    case 'language':
      return isLanguageTag(value);
    case 'path':
    case 'pattern':
      return value.startsWith('/') || (kind === 'pattern' && value.startsWith('*'));
  }
}

/** Against the viewer's own value only a contact attribute of the fitting type can be asked. */
function otherProblem(
  value: string | number,
  attribute: Attribute,
  catalogue: Catalogue,
): string | undefined {
  const other = catalogue.get(String(value));
  if (other?.source !== 'contact') return `“${value}” is not an attribute of contacts`;
  const wanted = attribute.type === 'set' ? 'choice' : attribute.type;
  return other.type === wanted ? undefined : `${other.label} can’t be compared with ${attribute.label}`;
}

function rangeProblem(test: Test, operator: Operator, attribute: Attribute): string | undefined {
  const [from, to] = test.values;
  if (from === undefined || to === undefined) return undefined;
  if (operator.operand === 'time') return from === to ? 'the range ends when it starts' : undefined;
  const order = choicesOf(attribute).map((choice) => choice.id);
  const reversed =
    operator.operand === 'choice' ? order.indexOf(String(from)) > order.indexOf(String(to)) : from > to;
  if (reversed) return 'the range ends before it starts';
  return operator.operand === 'moment' && from === to ? 'the window ends when it starts' : undefined;
}
