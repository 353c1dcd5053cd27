import { describe, expect, it } from 'vitest';
import { looksLikeChoices, mostDistinct, Surveyor } from './survey.ts';

function surveyOf(cells: Iterable<string>) {
  const surveyor = new Surveyor();
  for (const cell of cells) surveyor.add(cell);
  return surveyor.result('column');
}
const numbered = (count: number, make: (at: number) => string) =>
  Array.from({ length: count }, (_, at) => make(at));

describe('what a column holds', () => {
  it('counts cells, keeps the first four different values, and lists all with the most frequent first', () => {
    const { filled, blank, examples, distinct } = surveyOf([
      ' b ',
      '',
      'a',
      'a',
      'b',
      'a',
      '  ',
      'c',
      'd',
      'e',
    ]);
    expect([filled, blank]).toEqual([8, 2]);
    expect(examples).toEqual(['b', 'a', 'c', 'd']);
    expect(distinct).toEqual(['a', 'b', 'c', 'd', 'e']);
  });

  it('adds rows that are too short for the column as blanks', () => {
    const surveyor = new Surveyor();
    surveyor.add('x');
    surveyor.addBlanks(3);
    expect(surveyor.result('column').blank).toBe(3);
  });

  it('lists no values where there are more than 500, or one of more than a thousand signs', () => {
    expect(surveyOf(numbered(mostDistinct, (at) => `v${at}`)).distinct).toHaveLength(500);
    expect(surveyOf(numbered(mostDistinct + 1, (at) => `v${at}`)).distinct).toBeNull();
    expect(surveyOf(['x'.repeat(1000)]).distinct).toHaveLength(1);
    expect(surveyOf(['x'.repeat(1001)]).distinct).toBeNull();
  });

  it('goes on counting what fits where there are too many different values', () => {
    const { fits, filled } = surveyOf([
      ...numbered(700, (at) => `person${at}@example.org`),
      ...numbered(700, () => 'nobody'),
      ...numbered(600, (at) => String(at)),
    ]);
    expect([filled, fits.email, fits.number]).toEqual([2000, 700, 600]);
  });

  it('counts what each cell can be read as, every time it occurs', () => {
    const { fits } = surveyOf([
      'yes',
      'yes',
      'no',
      '3.5',
      '2026-02-03',
      '2026-02-03T10:00Z',
      'France',
      'a; b',
      'me@example.org',
    ]);
    expect(fits).toEqual({
      email: 1,
      'yes-no': 3,
      number: 1,
      date: 1,
      'date-time': 1,
      // “no” is the code of Norway too.
      country: 2,
      list: 1,
      code: 0,
    });
  });

  it.each([
    ['no number at all', ['x'], null],
    ['whole numbers, which fit both', ['1', '2'], null],
    ['one comma that could be either', ['1,234'], 'either'],
    ['a comma before two digits', ['1,234', '1,25'], 'comma'],
    ['a point before two digits', ['1.25', '1,234'], 'point'],
    ['one of each', ['1.25', '1,25'], 'mixed'],
  ] as const)('knows the sign of decimals: %s', (_name, cells, sign) => {
    expect(surveyOf(cells).decimals).toBe(sign);
  });

  it('takes for choices what is short, of at most sixty kinds, and comes three times each', () => {
    const cells = (kinds: number, times: number, make = (at: number) => `v${at}`) =>
      looksLikeChoices(surveyOf(Array.from({ length: times }, () => numbered(kinds, make)).flat()));
    expect([cells(60, 3), cells(61, 3), cells(20, 2)]).toEqual([true, false, false]);
    expect(cells(2, 3, (at) => `${'x'.repeat(79)}${at}`)).toBe(true);
    expect(cells(2, 3, (at) => `${'x'.repeat(80)}${at}`)).toBe(false);
  });
});

describe('digits that are no number', () => {
  it.each(['007', '00120', '0800 11 22 33', '+44 20 7946 0000', '(020) 7946-0000', '01/2-3'])(
    'are %s',
    (text) => {
      expect(surveyOf([text]).fits.code).toBe(1);
    },
  );
  it.each(['0', '0.5', '0,5', '-3', '+5', '12', '1e9', '03/04/2025', '+1.5', '03.04.25'])(
    'are not %s',
    (text) => {
      expect(surveyOf([text]).fits.code).toBe(0);
    },
  );
});
