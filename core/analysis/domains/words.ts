import type { Attribute, Value } from '../../attributes/attribute.ts';
import { formatValue } from '../../attributes/format.ts';
import { valueOfFact } from '../../attributes/viewer.ts';
import type { Cut } from './cuts.ts';

const or = new Intl.ListFormat('en-GB', { type: 'disjunction' });
const and = new Intl.ListFormat('en-GB');

/** "Dusk, Twilight or Midnight". */
export function eitherOf(words: readonly string[]): string {
  return or.format(words);
}

/** "Newsletter and School groups". */
export function allOf(words: readonly string[]): string {
  return and.format(words);
}

/** Most values that are listed one by one. */
export const mostListed = 8;

/** A statement about values that are there, extended to a missing one where it is among the cells. */
export function orMissing(said: string, cells: ReadonlySet<number>): string {
  return cells.has(0) ? `${said}, or has no value` : said;
}

/** A statement about whether there is a value at all, where the cells say just that; undefined otherwise. */
export function sayPresence(
  attribute: Attribute,
  cells: ReadonlySet<number>,
  width: number,
): string | undefined {
  if (cells.size === 1 && cells.has(0)) return `${attribute.label} has no value`;
  if (cells.size === width - 1 && !cells.has(0)) return `${attribute.label} has a value`;
  return undefined;
}

/** Intervals of numbers, dates, times or days from today in words: "visits 3 or more", "renewal date before 1 June 2027". */
export function sayBounds(
  attribute: Attribute,
  cells: ReadonlySet<number>,
  boundsOf: (cell: number) => { from: Cut | undefined; to: Cut | undefined },
  zone: string,
  fromToday = false,
): string | undefined {
  const present = [...cells].filter((cell) => cell > 0).sort((left, right) => left - right);
  const stretches: { first: number; last: number }[] = [];
  for (const cell of present) {
    const before = stretches.at(-1);
    if (before && before.last === cell - 1) before.last = cell;
    else stretches.push({ first: cell, last: cell });
  }
  if (stretches.length > 3) return undefined;
  const said = stretches.map(({ first, last }) => {
    const { from } = boundsOf(first);
    const { to } = boundsOf(last);
    return fromToday ? daysFromToday(from, to) : sayStretch(attribute, from, to, zone);
  });
  if (said.length === 0) return cells.has(0) ? `${attribute.label} has no value` : undefined;
  if (stretches.length === 1 && said[0] === '')
    return cells.has(0) ? undefined : `${attribute.label} has a value`;
  return orMissing(`${attribute.label} ${eitherOf(said)}`, cells);
}

function sayStretch(attribute: Attribute, from: Cut | undefined, to: Cut | undefined, zone: string): string {
  const say = (number: number) => formatValue(attribute, valueOfFact(attribute, number), 'en-GB', zone);
  const isNumber = attribute.type === 'number';
  const whole = attribute.type === 'date' || (isNumber && attribute.whole === true);
  if (!from && !to) return '';
  if (from && to) {
    if (!from.after && to.after && from.at === to.at) return say(from.at);
    if (whole) return from.at === to.at - 1 ? say(from.at) : `${say(from.at)} to ${say(to.at - 1)}`;
    if (!isNumber) return `from ${say(from.at)} until ${say(to.at)}`;
    if (!from.after && to.after) return `${say(from.at)} to ${say(to.at)}`;
    return `${from.after ? 'more than' : 'at least'} ${say(from.at)} and ${to.after ? 'at most' : 'less than'} ${say(to.at)}`;
  }
  if (from) {
    if (isNumber) return from.after ? `more than ${say(from.at)}` : `${say(from.at)} or more`;
    return `from ${say(from.at)} on`;
  }
  if (!to) return '';
  if (isNumber) return to.after ? `${say(to.at)} or less` : `less than ${say(to.at)}`;
  return `before ${say(to.at)}`;
}

function daysFromToday(from: Cut | undefined, to: Cut | undefined): string {
  if (!from && !to) return '';
  const day = (offset: number): string => {
    if (offset === 0) return 'today';
    const days = Math.abs(offset) === 1 ? 'day' : 'days';
    return offset > 0 ? `in ${offset} ${days}` : `${-offset} ${days} ago`;
  };
  const last = to && to.at - 1;
  if (from && last !== undefined) {
    if (from.at === last) return day(from.at);
    if (from.at === 0) return `within the next ${last} days`;
    if (last === 0) return `within the last ${-from.at} days`;
    return `from ${day(from.at)} to ${day(last)}`;
  }
  if (from) return from.at === 1 ? 'after today' : `${day(from.at)} or later`;
  if (last === undefined) return '';
  return last === -1 ? 'before today' : `${day(last)} or earlier`;
}

/** A value as people read it. */
export function sayValue(attribute: Attribute, value: Value, zone: string): string {
  return formatValue(attribute, value, 'en-GB', zone);
}
