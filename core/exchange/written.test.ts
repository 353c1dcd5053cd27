import { describe, expect, it } from 'vitest';
import { guessType } from './guess.ts';
import { Surveyor } from './survey.ts';
import { needsOrder, writtenDate } from './written.ts';

describe('a date as people write it', () => {
  it.each([
    ['3 March 2026', '2026-03-03'],
    ['3rd March 2026', '2026-03-03'],
    ['March 3, 2026', '2026-03-03'],
    ['Mar 3rd, 2026', '2026-03-03'],
    ['3-Mar-26', '2026-03-03'],
    ['3. März 2026', '2026-03-03'],
    ['3 mars 2026', '2026-03-03'],
    ['3 de marzo de 2026', '2026-03-03'],
    ['1er août 2026', '2026-08-01'],
    ['12 SEPT 2026', '2026-09-12'],
    ['29 février 2024', '2024-02-29'],
    ['7 maj 2026', '2026-05-07'],
  ])('is read with the name of its month: %s', (text, date) => {
    expect(needsOrder(text)).toBe(false);
    expect(writtenDate(text, undefined)).toBe(date);
  });

  it.each(['30 February 2026', '3 Marchember 2026', 'March 2026', '3 2026', 'May I 2026', '0 March 2026'])(
    'is none: %s',
    (text) => {
      expect(writtenDate(text, 'day-first')).toBeUndefined();
    },
  );

  it('with two digits for the year is of the hundred years that end ten years from now', () => {
    const read = (text: string) => writtenDate(text, 'day-first', 2026);
    expect(read('03.04.26')).toBe('2026-04-03');
    expect(read('03.04.36')).toBe('2036-04-03');
    expect(read('03.04.37')).toBe('1937-04-03');
    expect(read('03.04.99')).toBe('1999-04-03');
    expect(writtenDate('04/03/85', 'month-first', 2026)).toBe('1985-04-03');
    expect(writtenDate('3-Apr-85', undefined, 2026)).toBe('1985-04-03');
    expect(needsOrder('03.04.26')).toBe(true);
    expect(writtenDate('03.04.26', undefined, 2026)).toBeUndefined();
  });
});

describe('what a column is taken for', () => {
  const typeOf = (header: string, cells: readonly string[]) => {
    const surveyor = new Surveyor();
    for (const cell of cells) surveyor.add(cell);
    return guessType(surveyor.result(header));
  };
  const many = (make: (at: number) => string) => Array.from({ length: 200 }, (_, at) => make(at));

  it('is text where zeros count, however few begin with one, and for telephone numbers and postal codes', () => {
    expect(typeOf('membership', ['00123', ...many((at) => String(at + 10_000))])).toBe('text');
    expect(
      typeOf(
        'where',
        many((at) => `+44 20 7946 0${at + 100}`),
      ),
    ).toBe('text');
    expect(
      typeOf(
        'Postal code',
        many((at) => String(at + 10_000)),
      ),
    ).toBe('text');
    expect(
      typeOf(
        'Phone',
        many((at) => String(at + 5_550_000)),
      ),
    ).toBe('text');
    expect(
      typeOf(
        'visits',
        many((at) => String(at)),
      ),
    ).toBe('number');
    expect(
      typeOf(
        'share',
        many((at) => `0.${at}`),
      ),
    ).toBe('number');
  });

  it('is yes or no in other words', () => {
    for (const words of [
      ['ja', 'nein'],
      ['y', 'n'],
      ['oui', 'non'],
      ['x', ''],
    ])
      expect([
        words,
        typeOf(
          'agreed',
          many((at) => words[at % 2] ?? ''),
        ),
      ]).toEqual([words, 'yes-no']);
    expect(
      typeOf(
        'flag',
        many((at) => String(at % 2)),
      ),
    ).toBe('number');
  });

  it('is dates with names of months, and with two digits for the year', () => {
    expect(
      typeOf(
        'since',
        many((at) => `${(at % 28) + 1} March 2026`),
      ),
    ).toBe('date');
    expect(
      typeOf(
        'since',
        many((at) => `${(at % 28) + 1}.03.85`),
      ),
    ).toBe('date');
  });

  it('is no choice where texts are long or do not recur', () => {
    expect(
      typeOf(
        'note',
        many((at) => `${'A long note about somebody; with more to it. '.repeat(3)}${at % 3}`),
      ),
    ).toBe('text');
    expect(
      typeOf(
        'words',
        many((at) => `word ${at}; other ${at}`),
      ),
    ).toBe('text');
    expect(
      typeOf(
        'topics',
        many((at) => ['moon; sun', 'sun', 'moon'][at % 3] ?? ''),
      ),
    ).toBe('set');
  });
});
