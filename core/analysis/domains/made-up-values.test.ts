import { describe, expect, it } from 'vitest';
import { leapYearsAround } from './anniversaries.ts';
import { separatorFor } from './texts.ts';

describe('a sign that stands in none of some texts', () => {
  it('is the first that none of them has, also where these are many', () => {
    const used = Array.from({ length: 300 }, (_, at) => String.fromCharCode(0xe000 + at));
    expect(separatorFor(['plain'])).toBe('\ue000');
    expect(separatorFor([used.slice(0, 5).join(''), 'x'])).toBe('\ue005');
    expect(separatorFor(used)).toBe(String.fromCharCode(0xe000 + 300));
  });
});

/** The Gregorian rule. */
const isLeapYear = (year: number) => (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;

describe('the leap years around a year', () => {
  it('are told for each year and distance by itself, however often they are asked for', () => {
    for (let again = 0; again < 2; again++)
      for (const [year, years] of [
        [1000, 5],
        [2000, 4],
        [2100, 4],
        [2024, 1],
        [4, 3],
        [1, 6],
      ] as const) {
        const wanted = Array.from({ length: 2 * years + 1 }, (_, at) =>
          isLeapYear(year - years + at) ? '1' : '0',
        ).join('');
        expect(leapYearsAround(year, years)).toBe(wanted);
      }
  });
});
