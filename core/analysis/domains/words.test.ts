import { describe, expect, it } from 'vitest';
import type { Attribute } from '../../attributes/attribute.ts';
import { dayNumber } from '../../attributes/calendar.ts';
import type { Range } from '../../conditions/meaning.ts';
import { Cuts } from './cuts.ts';
import { sayBounds } from './words.ts';

const contact = { source: 'contact', id: 'x', label: 'x', description: '' } as const;
const number: Attribute = { ...contact, type: 'number' };
const whole: Attribute = { ...contact, type: 'number', whole: true };
const date: Attribute = { ...contact, type: 'date' };
const moment: Attribute = { ...contact, type: 'date-time' };

/** The intervals of some ranges, each in words by itself, and then those that are asked for together. */
function said(attribute: Attribute, ranges: Range[], ...together: number[]): (string | undefined)[] {
  const isWhole = attribute.type !== 'number' || attribute.whole === true;
  const cuts = new Cuts(ranges, isWhole, -1e15, 1e15);
  const bounds = (cell: number) => cuts.bounds(cell - 1);
  const cells = Array.from({ length: cuts.count }, (_, at) => [at + 1]);
  return [...cells, ...(together.length > 0 ? [together] : [])].map((some) =>
    sayBounds(attribute, new Set(some), bounds, 'UTC'),
  );
}

describe('intervals in words', () => {
  it('of numbers say whether their ends are in them', () => {
    expect(said(number, [{ from: 2, to: 3 }])).toEqual(['x less than 2', 'x 2 to 3', 'x more than 3']);
    expect(said(number, [{ from: 2, to: 3, withoutFrom: true, withoutTo: true }])).toEqual([
      'x 2 or less',
      'x more than 2 and less than 3',
      'x 3 or more',
    ]);
    expect(said(number, [{ from: 2, to: 3, withoutFrom: true }])[1]).toBe('x more than 2 and at most 3');
    expect(said(number, [{ from: 2, to: 3, withoutTo: true }])[1]).toBe('x at least 2 and less than 3');
    expect(said(number, [{ from: 2, to: 2 }])[1]).toBe('x 2');
  });

  it('of whole numbers and days say the first and the last', () => {
    expect(said(whole, [{ from: 2, to: 4 }])).toEqual(['x less than 2', 'x 2 to 4', 'x 5 or more']);
    expect(said(whole, [{ from: 2, to: 2 }])[1]).toBe('x 2');
    expect(said(whole, [{ from: 2, to: 3 }])[1]).toBe('x 2 to 3');
    const [from, to] = [dayNumber('2027-06-01') ?? 0, dayNumber('2027-06-03') ?? 0];
    expect(said(date, [{ from, to }])).toEqual([
      'x before 1 June 2027',
      'x 1 June 2027 to 3 June 2027',
      'x from 4 June 2027 on',
    ]);
    expect(said(date, [{ from, to: from }])[1]).toBe('x 1 June 2027');
  });

  it('of moments end where the next begin', () => {
    const from = Date.parse('2027-06-01T09:00Z');
    const [before, during, after] = said(moment, [{ from, to: from + 3_600_000, withoutTo: true }]);
    expect(before).toMatch(/^x before .*9:00$/);
    expect(during).toMatch(/^x from .*9:00 until .*10:00$/);
    expect(after).toMatch(/^x from .*10:00 on$/);
  });

  it('of days from today are said as people do', () => {
    const cuts = (...ranges: Range[]) => {
      const own = new Cuts(ranges, true, -1e9, 1e9);
      return Array.from({ length: own.count }, (_, at) =>
        sayBounds(date, new Set([at + 1]), (cell) => own.bounds(cell - 1), 'UTC', true),
      );
    };
    expect(cuts({ from: 0, to: 7 })).toEqual([
      'x before today',
      'x within the next 7 days',
      'x in 8 days or later',
    ]);
    expect(cuts({ from: -7, to: 0 })).toEqual([
      'x 8 days ago or earlier',
      'x within the last 7 days',
      'x after today',
    ]);
    expect(cuts({ from: 0, to: 0 })[1]).toBe('x today');
    expect(cuts({ from: 1, to: 1 })[1]).toBe('x in 1 day');
    expect(cuts({ from: -1, to: -1 })[1]).toBe('x 1 day ago');
    expect(cuts({ from: 2, to: 5 })[1]).toBe('x from in 2 days to in 5 days');
    expect(cuts({ from: -5, to: -2 })[1]).toBe('x from 5 days ago to 2 days ago');
  });

  it('are put together where they touch, and listed where they do not', () => {
    const ranges = [
      { from: 2, to: 3 },
      { from: 5, to: 6 },
    ];
    expect(said(number, ranges, 1, 2).at(-1)).toBe('x 3 or less');
    expect(said(number, ranges, 1, 3).at(-1)).toBe('x less than 2 or more than 3 and less than 5');
    expect(said(number, ranges, 1, 2, 3, 4, 5).at(-1)).toBe('x has a value');
    expect(said(number, ranges, 0).at(-1)).toBe('x has no value');
    expect(said(number, ranges, 0, 1, 2).at(-1)).toBe('x 3 or less, or has no value');
  });
});
