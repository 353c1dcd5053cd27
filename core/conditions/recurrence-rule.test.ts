import fc from 'fast-check';
import rrule from 'rrule';
import { describe, expect, it } from 'vitest';
import { dayNumber, isoDate } from '../attributes/calendar.ts';
import { Recurrence } from './recurrence.ts';
import { RecurrenceRule, ruleProblem, startProblem } from './recurrence-rule.ts';

const { RRule } = rrule;
const day = (date: string): number => {
  const number = dayNumber(date);
  if (number === undefined) throw new Error(date);
  return number;
};
const starts = (rule: RecurrenceRule, from: number, days: number): string[] =>
  Array.from({ length: days }, (_, at) => from + at)
    .filter((one) => rule.startsOn(one))
    .map(isoDate);

// RFC 5545, section 3.8.5.3: every example that recurs by day or more, from 2 September 1997 unless it says otherwise.
const year1997 = (...dates: string[]) => dates.map((date) => `1997-${date}`);
describe('the examples of RFC 5545, section 3.8.5.3', () => {
  it.each<[string, string, string[]]>([
    [
      'FREQ=DAILY;COUNT=10',
      '1997-09-02',
      year1997('09-02', '09-03', '09-04', '09-05', '09-06', '09-07', '09-08', '09-09', '09-10', '09-11'),
    ],
    ['FREQ=DAILY;INTERVAL=2', '1997-09-02', year1997('09-02', '09-04', '09-06', '09-08')],
    [
      'FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA',
      '1998-01-01',
      ['1998-01-01', '1998-01-02', '1998-01-03'],
    ],
    ['FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1', '1998-01-01', ['1998-01-01', '1998-01-02', '1998-01-03']],
    [
      'FREQ=WEEKLY;INTERVAL=2;WKST=SU',
      '1997-09-02',
      year1997('09-02', '09-16', '09-30', '10-14', '10-28', '11-11', '11-25', '12-09', '12-23'),
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR',
      '1997-09-01',
      year1997('09-01', '09-03', '09-05', '09-15', '09-17', '09-19', '09-29', '10-01', '10-03', '10-13'),
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH',
      '1997-09-02',
      year1997('09-02', '09-04', '09-16', '09-18', '09-30', '10-02', '10-14', '10-16'),
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYDAY=1FR',
      '1997-09-05',
      [
        ...year1997('09-05', '10-03', '11-07', '12-05'),
        '1998-01-02',
        '1998-02-06',
        '1998-03-06',
        '1998-04-03',
        '1998-05-01',
        '1998-06-05',
      ],
    ],
    [
      'FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU',
      '1997-09-07',
      [
        ...year1997('09-07', '09-28', '11-02', '11-30'),
        '1998-01-04',
        '1998-01-25',
        '1998-03-01',
        '1998-03-29',
        '1998-05-03',
        '1998-05-31',
      ],
    ],
    [
      'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO',
      '1997-09-22',
      [...year1997('09-22', '10-20', '11-17', '12-22'), '1998-01-19', '1998-02-16'],
    ],
    [
      'FREQ=MONTHLY;BYMONTHDAY=-3',
      '1997-09-28',
      [...year1997('09-28', '10-29', '11-28', '12-29'), '1998-01-29', '1998-02-26'],
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15',
      '1997-09-02',
      [
        ...year1997('09-02', '09-15', '10-02', '10-15', '11-02', '11-15', '12-02', '12-15'),
        '1998-01-02',
        '1998-01-15',
      ],
    ],
    [
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1',
      '1997-09-30',
      [
        ...year1997('09-30', '10-01', '10-31', '11-01', '11-30', '12-01', '12-31'),
        '1998-01-01',
        '1998-01-31',
        '1998-02-01',
      ],
    ],
    [
      'FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15',
      '1997-09-10',
      [
        ...year1997('09-10', '09-11', '09-12', '09-13', '09-14', '09-15'),
        '1999-03-10',
        '1999-03-11',
        '1999-03-12',
        '1999-03-13',
      ],
    ],
    [
      'FREQ=MONTHLY;INTERVAL=2;BYDAY=TU',
      '1997-09-02',
      year1997('09-02', '09-09', '09-16', '09-23', '09-30', '11-04', '11-11', '11-18', '11-25'),
    ],
    [
      'FREQ=YEARLY;COUNT=10;BYMONTH=6,7',
      '1997-06-10',
      [
        '1997-06-10',
        '1997-07-10',
        '1998-06-10',
        '1998-07-10',
        '1999-06-10',
        '1999-07-10',
        '2000-06-10',
        '2000-07-10',
        '2001-06-10',
        '2001-07-10',
      ],
    ],
    [
      'FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3',
      '1997-03-10',
      [
        '1997-03-10',
        '1999-01-10',
        '1999-02-10',
        '1999-03-10',
        '2001-01-10',
        '2001-02-10',
        '2001-03-10',
        '2003-01-10',
        '2003-02-10',
        '2003-03-10',
      ],
    ],
    [
      'FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200',
      '1997-01-01',
      [
        '1997-01-01',
        '1997-04-10',
        '1997-07-19',
        '2000-01-01',
        '2000-04-09',
        '2000-07-18',
        '2003-01-01',
        '2003-04-10',
        '2003-07-19',
        '2006-01-01',
      ],
    ],
    ['FREQ=YEARLY;BYDAY=20MO', '1997-05-19', ['1997-05-19', '1998-05-18', '1999-05-17']],
    ['FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO', '1997-05-12', ['1997-05-12', '1998-05-11', '1999-05-17']],
    [
      'FREQ=YEARLY;BYMONTH=3;BYDAY=TH',
      '1997-03-13',
      ['1997-03-13', '1997-03-20', '1997-03-27', '1998-03-05', '1998-03-12', '1998-03-19', '1998-03-26'],
    ],
    [
      'FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8',
      '1997-06-05',
      year1997(
        '06-05',
        '06-12',
        '06-19',
        '06-26',
        '07-03',
        '07-10',
        '07-17',
        '07-24',
        '07-31',
        '08-07',
        '08-14',
        '08-21',
        '08-28',
      ),
    ],
    [
      'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13',
      '1998-02-13',
      ['1998-02-13', '1998-03-13', '1998-11-13', '1999-08-13', '2000-10-13'],
    ],
    [
      'FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13',
      '1997-09-13',
      [
        ...year1997('09-13', '10-11', '11-08', '12-13'),
        '1998-01-10',
        '1998-02-07',
        '1998-03-07',
        '1998-04-11',
        '1998-05-09',
        '1998-06-13',
      ],
    ],
    [
      'FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8',
      '1996-11-05',
      ['1996-11-05', '2000-11-07', '2004-11-02'],
    ],
    ['FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3', '1997-09-04', year1997('09-04', '10-07', '11-06')],
    [
      'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2',
      '1997-09-29',
      [...year1997('09-29', '10-30', '11-27', '12-30'), '1998-01-29', '1998-02-26', '1998-03-30'],
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO',
      '1997-08-05',
      year1997('08-05', '08-10', '08-19', '08-24'),
    ],
    [
      'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU',
      '1997-08-05',
      year1997('08-05', '08-17', '08-19', '08-31'),
    ],
    [
      'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5',
      '2007-01-15',
      ['2007-01-15', '2007-01-30', '2007-02-15', '2007-03-15', '2007-03-30'],
    ],
  ])('%s from %s', (text, start, wanted) => {
    expect(ruleProblem(text)).toBeUndefined();
    expect(startProblem(text, day(start))).toBeUndefined();
    const rule = new RecurrenceRule(text, day(start), 540);
    const found = starts(rule, day(start) - 400, 3700);
    expect(found.slice(0, wanted.length)).toEqual(wanted);
    // Where the example ends by its count, nothing comes after it.
    if (/COUNT/.test(text)) expect(found).toHaveLength(wanted.length);
  });

  it('ends with the last day of UNTIL', () => {
    const daily = new RecurrenceRule('FREQ=DAILY;UNTIL=19971224T000000Z', day('1997-09-02'), 540);
    // Nine in the morning of the 24th is after midnight.
    expect(starts(daily, day('1997-09-02'), 400).at(-1)).toBe('1997-12-23');
    const wholeDay = new RecurrenceRule('FREQ=DAILY;UNTIL=19971224', day('1997-09-02'), 540);
    expect(starts(wholeDay, day('1997-09-02'), 400).at(-1)).toBe('1997-12-24');
  });
});

const list = <Item>(items: readonly Item[], most: number) =>
  fc.uniqueArray(fc.constantFrom(...items), { minLength: 1, maxLength: most }).map((some) => some.join());
const weekdays = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];
const maybe = (part: fc.Arbitrary<string>) => fc.option(part, { nil: '' });
const months = list([1, 2, 3, 5, 6, 9, 12], 3).map((some) => `;BYMONTH=${some}`);
const monthDays = list([1, 2, 13, 15, 28, 29, 30, 31, -1, -2, -31], 4).map((some) => `;BYMONTHDAY=${some}`);
const plainDays = list(weekdays, 3).map((some) => `;BYDAY=${some}`);
const countedDays = list(['1MO', '2TU', '-1FR', '5SU', '-5TH'], 3).map((some) => `;BYDAY=${some}`);
// The package takes -2 of a single day for that day.
const positions = list([1, 2, 5, -1], 2).map((some) => `;BYSETPOS=${some}`);
const interval = maybe(fc.integer({ min: 1, max: 5 }).map((every) => `;INTERVAL=${every}`));
const weekStart = maybe(fc.constantFrom(...weekdays).map((name) => `;WKST=${name}`));
const end = maybe(
  fc.oneof(
    fc.integer({ min: 1, max: 40 }).map((count) => `;COUNT=${count}`),
    fc.constantFrom(';UNTIL=20300101T235959', ';UNTIL=20290615T120000'),
  ),
);
const join = (...parts: fc.Arbitrary<string>[]) => fc.tuple(...parts).map((some) => some.join(''));
const randomRule = fc
  .oneof(
    join(fc.constant('FREQ=DAILY'), maybe(months), maybe(monthDays), maybe(plainDays)),
    join(fc.constant('FREQ=WEEKLY'), maybe(months), maybe(plainDays), weekStart),
    join(
      fc.constant('FREQ=MONTHLY'),
      maybe(months),
      maybe(monthDays),
      maybe(fc.oneof(plainDays, countedDays)),
    ),
    join(
      fc.constant('FREQ=YEARLY'),
      maybe(months),
      maybe(monthDays),
      maybe(fc.oneof(plainDays, countedDays)),
    ),
    // Which days of its week one without BYDAY means, readers of the RFC disagree; here it is that of the start.
    join(
      fc.constant('FREQ=YEARLY'),
      list([1, 2, 20, 52, 53, -1], 2).map((some) => `;BYWEEKNO=${some}`),
      plainDays,
    ),
    join(
      fc.constant('FREQ=YEARLY'),
      list([1, 60, 100, 366, -1, -366], 3).map((some) => `;BYYEARDAY=${some}`),
      maybe(plainDays),
    ),
  )
  .chain((text) =>
    join(
      fc.constant(text),
      interval,
      /(MONTHLY|YEARLY);BY(?!WEEKNO)/.test(text) ? maybe(positions) : fc.constant(''),
      end,
    ),
  );

describe('a rule', () => {
  it('takes weekdays with and without a number together, and positions among all days of a week', () => {
    const mixed = new RecurrenceRule('FREQ=MONTHLY;BYDAY=-1WE,1MO', day('2026-11-25'), 0);
    expect(starts(mixed, day('2026-11-24'), 60)).toEqual([
      '2026-11-25',
      '2026-12-07',
      '2026-12-30',
      '2027-01-04',
    ]);
    const both = new RecurrenceRule('FREQ=MONTHLY;BYDAY=WE,1MO', day('2026-12-02'), 0);
    expect(starts(both, day('2026-12-01'), 14)).toEqual(['2026-12-02', '2026-12-07', '2026-12-09']);
    const second = new RecurrenceRule('FREQ=WEEKLY;BYDAY=TH,SA;BYSETPOS=2', day('2026-11-28'), 0);
    expect(starts(second, day('2026-11-24'), 14)).toEqual(['2026-11-28', '2026-12-05']);
  });

  it('starts on the days that the rrule package finds, whatever the rule', () => {
    const first = day('2026-11-24');
    fc.assert(
      fc.property(randomRule, fc.integer({ min: 0, max: 800 }), (text, later) => {
        fc.pre(ruleProblem(text) === undefined);
        // The package lists a day twice, and counts it twice, where two positions pick it.
        fc.pre(!/BYSETPOS=[^;]*,.*COUNT/.test(text));
        const searched = new RecurrenceRule(text.replace(/;(COUNT|UNTIL)=[^;]*/, ''), first + later, 600);
        const start = searched.nextFrom(first + later);
        if (start === undefined) return;
        const rule = new RecurrenceRule(text, start, 600);
        const from = new Date(start * 86_400_000 + 36_000_000);
        const other = new RRule({ ...RRule.parseString(text), dtstart: from });
        const until = new Date(from.getTime() + 1500 * 86_400_000);
        const found = other.between(from, until, true).map((date) => date.toISOString().slice(0, 10));
        const wanted = [...new Set(found)];
        expect(starts(rule, start, 1501)).toEqual(wanted);
      }),
      { numRuns: 1500 },
    );
  });

  it.each([
    ['FREQ=WEEKLY;COUNT=0', 'has COUNT=0; it can be 1 to 1000'],
    ['FREQ=WEEKLY;COUNT=1001', 'has COUNT=1001; it can be 1 to 1000'],
    ['FREQ=WEEKLY;INTERVAL=0', 'has INTERVAL=0; it can be 1 to 10000'],
    ['FREQ=WEEKLY;BYDAY=MO;BYDAY=TU', 'has BYDAY twice'],
    ['FREQ=WEEKLY;COUNT=2;UNTIL=20270101', 'has both COUNT and UNTIL; one of them says when it ends'],
    ['FREQ=WEEKLY;BYMONTHDAY=3', 'has BYMONTHDAY, which only fits FREQ=DAILY, MONTHLY or YEARLY'],
    ['FREQ=MONTHLY;BYYEARDAY=3', 'has BYYEARDAY, which only fits FREQ=YEARLY'],
    ['FREQ=MONTHLY;BYWEEKNO=3', 'has BYWEEKNO, which only fits FREQ=YEARLY'],
    ['FREQ=MONTHLY;BYSETPOS=1', 'has BYSETPOS, which only fits rules with another BY… part'],
    [
      'FREQ=WEEKLY;BYDAY=2FR',
      'counts weekdays (such as 2FR), which only fits FREQ=MONTHLY or YEARLY without BYWEEKNO',
    ],
    ['FREQ=MONTHLY;BYMONTHDAY=32', 'has BYMONTHDAY=32; it can be 1 to 31, or -1 to -31 from the end'],
    ['FREQ=MONTHLY;BYMONTH=-1', 'has BYMONTH=-1; it can be 1 to 12'],
    ['FREQ=DAILY;BYHOUR=3', 'takes its time of day from the start, so it can’t have one of its own'],
    ['FREQ=DAILY;BYEASTER=0', 'has BYEASTER, which is not part of recurrence rules'],
    ['FREQ=HOURLY', 'must recur by day, week, month or year (FREQ=DAILY, WEEKLY, MONTHLY or YEARLY)'],
    ['FREQ=DAILY;UNTIL=20270230', 'has UNTIL=20270230; it is a day, such as 20271231'],
    ['every friday', 'is not a recurrence rule such as FREQ=WEEKLY;BYDAY=FR'],
  ])('%s is refused: it %s', (text, reason) => {
    expect(ruleProblem(text)).toBe(reason);
  });

  it.each([
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', '2026-11-24', 'never occurs from its start date on'],
    ['FREQ=MONTHLY;INTERVAL=12;BYMONTHDAY=31', '2026-11-24', 'never occurs from its start date on'],
    // Every seventh day from a Tuesday is a Tuesday.
    ['FREQ=DAILY;INTERVAL=7;BYDAY=MO', '2026-11-24', 'never occurs from its start date on'],
    [
      'FREQ=WEEKLY;BYDAY=FR',
      '2026-11-24',
      'does not occur on its start date; the first time after that is Friday, 27 November 2026',
    ],
    [
      'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29;BYDAY=MO',
      '2026-11-24',
      'does not occur on its start date; the first time after that is Monday, 29 February 2044',
    ],
  ])('%s from %s %s', (text, start, reason) => {
    expect(startProblem(text, day(start))).toBe(reason);
    expect(startProblem('FREQ=WEEKLY', day(start))).toBeUndefined();
  });

  it('is answered for at once, though it occurs once in 400 years or never', () => {
    // Looked at a day at a time within some days of the one asked for; a search would take seconds.
    const rare = new Recurrence('2026-11-24T20:00', 60, 'FREQ=DAILY;INTERVAL=7;BYDAY=MO', 'UTC');
    const start = performance.now();
    for (let at = 0; at < 1000; at++) rare.covers(Date.parse('2027-01-01T00:00:00Z') + at * 86_400_000);
    expect(performance.now() - start).toBeLessThan(1000);
    expect(rare.start).toBeUndefined();
  });
});
