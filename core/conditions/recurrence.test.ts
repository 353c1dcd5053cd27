import { describe, expect, it } from 'vitest';
import { attributes } from '../../test/random-conditions.ts';
import { instantOf, readLocalTime } from '../attributes/calendar.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import { type Condition, test } from './condition.ts';
import { compile } from './evaluate.ts';
import { Recurrence } from './recurrence.ts';
import { ruleProblem, sayRule } from './recurrence-rule.ts';

const newYork = 'America/New_York';
const at = (local: string, zone: string): number => {
  const time = readLocalTime(local);
  if (!time) throw new Error(local);
  return instantOf(time, zone);
};

/** Local dates on which a window of one hour starts, found by asking about every hour of a span. */
function startsOf(rule: string, start: string, until: string, zone = newYork): string[] {
  const recurrence = new Recurrence(start, 60, rule, zone);
  const found: string[] = [];
  const time = start.slice(11);
  for (let instant = at(start, zone); instant < at(until, zone); instant += 24 * 3600 * 1000) {
    const day = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(instant);
    if (recurrence.covers(at(`${day}T${time}`, zone))) found.push(day);
  }
  return found;
}

// RFC 5545, section 3.8.5.3: the examples, all from 2 September 1997 (or as said there) at nine in New York.
describe('the examples of RFC 5545', () => {
  it.each<[string, string, string, string, string[]]>([
    [
      'daily for 10 occurrences',
      'FREQ=DAILY;COUNT=10',
      '1997-09-02T09:00',
      '1997-10-01T00:00',
      Array.from({ length: 10 }, (_, day) => `1997-09-${String(day + 2).padStart(2, '0')}`),
    ],
    [
      'every other day, 5 occurrences with an interval of 10',
      'FREQ=DAILY;INTERVAL=10;COUNT=5',
      '1997-09-02T09:00',
      '1997-12-01T00:00',
      ['1997-09-02', '1997-09-12', '1997-09-22', '1997-10-02', '1997-10-12'],
    ],
    [
      'weekly on Tuesday and Thursday for five weeks',
      'FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH',
      '1997-09-02T09:00',
      '1997-11-01T00:00',
      [
        '1997-09-02',
        '1997-09-04',
        '1997-09-09',
        '1997-09-11',
        '1997-09-16',
        '1997-09-18',
        '1997-09-23',
        '1997-09-25',
        '1997-09-30',
        '1997-10-02',
      ],
    ],
    [
      'monthly on the first Friday for 10 occurrences',
      'FREQ=MONTHLY;COUNT=10;BYDAY=1FR',
      '1997-09-05T09:00',
      '1998-07-01T00:00',
      [
        '1997-09-05',
        '1997-10-03',
        '1997-11-07',
        '1997-12-05',
        '1998-01-02',
        '1998-02-06',
        '1998-03-06',
        '1998-04-03',
        '1998-05-01',
        '1998-06-05',
      ],
    ],
    [
      'monthly on the second-to-last Monday for 6 months',
      'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO',
      '1997-09-22T09:00',
      '1998-03-01T00:00',
      ['1997-09-22', '1997-10-20', '1997-11-17', '1997-12-22', '1998-01-19', '1998-02-16'],
    ],
    [
      'every Friday the 13th',
      'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13',
      '1997-09-02T09:00',
      '1999-09-01T00:00',
      ['1998-02-13', '1998-03-13', '1998-11-13', '1999-08-13'],
    ],
    [
      'monthly on the 31st where there is one',
      'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5',
      '2007-01-15T09:00',
      '2007-05-01T00:00',
      ['2007-01-15', '2007-01-30', '2007-02-15', '2007-03-15', '2007-03-30'],
    ],
    [
      'yearly in June and July for 10 occurrences',
      'FREQ=YEARLY;COUNT=4;BYMONTH=6,7',
      '1997-06-10T09:00',
      '1999-01-01T00:00',
      ['1997-06-10', '1997-07-10', '1998-06-10', '1998-07-10'],
    ],
  ])('%s', (_name, rule, start, until, wanted) => {
    expect(ruleProblem(rule)).toBeUndefined();
    expect(startsOf(rule, start, until)).toEqual(wanted);
  });

  it('nine in New York stays nine through the end of summer time on 26 October 1997', () => {
    const daily = new Recurrence('1997-10-25T09:00', 60, 'FREQ=DAILY', newYork);
    expect(daily.covers(Date.parse('1997-10-25T13:00:00Z'))).toBe(true);
    expect(daily.covers(Date.parse('1997-10-26T13:00:00Z'))).toBe(false);
    expect(daily.covers(Date.parse('1997-10-26T14:00:00Z'))).toBe(true);
  });
});

describe('a window', () => {
  const friday = new Recurrence('2026-11-27T20:00', 120, 'FREQ=WEEKLY;BYDAY=FR', 'Europe/London');
  it('has its start in it and its end not', () => {
    const inside = (text: string) => friday.covers(Date.parse(text));
    expect(inside('2026-12-04T19:59:59.999Z')).toBe(false);
    expect(inside('2026-12-04T20:00:00.000Z')).toBe(true);
    expect(inside('2026-12-04T21:59:59.999Z')).toBe(true);
    expect(inside('2026-12-04T22:00:00.000Z')).toBe(false);
    expect(inside('2026-11-20T20:30:00.000Z')).toBe(false);
  });

  it('answers alike in any order of asking', () => {
    expect(friday.covers(Date.parse('2031-12-05T21:00:00Z'))).toBe(true);
    expect(friday.covers(Date.parse('2026-12-04T21:00:00Z'))).toBe(true);
    expect(friday.covers(Date.parse('2031-12-05T21:00:00Z'))).toBe(true);
  });

  it('knows when the first one opens and the last one ends', () => {
    const twice = new Recurrence('2026-12-04T20:00', 60, 'FREQ=DAILY;COUNT=2', 'UTC');
    expect(twice.end).toBe(Date.parse('2026-12-05T21:00:00Z'));
    expect(twice.start).toBe(Date.parse('2026-12-04T20:00:00Z'));
    expect(friday.end).toBe(Number.POSITIVE_INFINITY);
    expect(friday.start).toBe(Date.parse('2026-11-27T20:00:00Z'));
    const ending = new Recurrence('2026-12-04T20:00', 60, 'FREQ=WEEKLY;UNTIL=20261211T193000', 'UTC');
    expect(ending.end).toBe(Date.parse('2026-12-04T21:00:00Z'));
  });

  // IANA tz: clocks in London are put forward on 29 March 2026 at one and back on 25 October 2026 at two.
  it('lasts as long as it says through a change of clocks, and starts after a start that clocks skip', () => {
    const night = new Recurrence('2026-03-28T23:00', 180, 'FREQ=DAILY', 'Europe/London');
    expect(night.covers(Date.parse('2026-03-29T01:59:00Z'))).toBe(true);
    expect(night.covers(Date.parse('2026-03-29T02:00:00Z'))).toBe(false);
    const skipped = new Recurrence('2026-03-28T01:30', 30, 'FREQ=DAILY', 'Europe/London');
    expect(skipped.covers(Date.parse('2026-03-29T01:30:00Z'))).toBe(true);
    expect(skipped.covers(Date.parse('2026-03-29T01:00:00Z'))).toBe(false);
  });

  it('says its rule in English, or the rule where English can’t', () => {
    expect(sayRule('FREQ=WEEKLY;BYDAY=FR')).toBe('every week on Friday');
    expect(sayRule('FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-1')).toBe('FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-1');
  });
});

describe('the moment', () => {
  const zone = 'Europe/London';
  const catalogue = new Catalogue(attributes, zone);
  const holds = (condition: Condition, text: string): boolean => {
    const viewer = { contact: null, signedIn: false, visit: {}, item: null, instant: Date.parse(text) };
    return compile(condition, catalogue)(factsOf(catalogue, viewer));
  };

  it.each<[Condition, string[], string[]]>([
    [
      test('moment-weekday', 'is-one-of', 'sunday'),
      ['2026-11-29T12:00:00Z', '2026-06-27T23:30:00Z'],
      ['2026-11-28T23:59:00Z'],
    ],
    [test('moment-month', 'is-one-of', 'december'), ['2026-12-01T00:00:00Z'], ['2026-11-30T23:59:59Z']],
    [
      test('moment-season-north', 'is-one-of', 'winter'),
      ['2026-12-01T00:00:00Z', '2027-02-28T23:00:00Z'],
      ['2026-11-30T23:00:00Z', '2027-03-01T00:00:00Z'],
    ],
    [test('moment-season-south', 'is-one-of', 'summer'), ['2026-12-01T00:00:00Z'], ['2026-07-01T00:00:00Z']],
    [
      test('moment-time', 'between', '22:00', '02:00'),
      ['2026-07-01T21:00:00Z', '2026-07-02T00:59:00Z'],
      ['2026-07-01T20:59:00Z', '2026-07-02T01:00:00Z'],
    ],
    [
      test('moment', 'between', '2026-12-01T00:00', '2026-12-24T18:00'),
      ['2026-12-01T00:00:00Z', '2026-12-24T17:59:59.999Z'],
      ['2026-12-24T18:00:00Z'],
    ],
    [
      test('moment', 'recurs', '2026-11-27T20:00', 120, 'FREQ=WEEKLY;BYDAY=FR'),
      ['2026-12-04T21:00:00Z'],
      ['2026-12-04T22:00:00Z', '2026-12-03T21:00:00Z'],
    ],
    [test('moment', 'before', '2026-07-01T12:00'), ['2026-07-01T10:59:59Z'], ['2026-07-01T11:00:00Z']],
  ])('%j', (condition, inside, outside) => {
    for (const text of inside) expect([text, holds(condition, text)]).toEqual([text, true]);
    for (const text of outside) expect([text, holds(condition, text)]).toEqual([text, false]);
  });

  it('out of the calendar is no moment, and nothing crashes', () => {
    for (const instant of [Number.NaN, Number.POSITIVE_INFINITY, 9e15, -9e15]) {
      const viewer = { contact: null, signedIn: false, visit: {}, item: null, instant };
      const facts = factsOf(catalogue, viewer);
      expect(compile(test('moment', 'from', '2026-01-01T00:00'), catalogue)(facts)).toBe(false);
    }
  });
});
