import { describe, expect, it } from 'vitest';
import { demoAttributes, demoSettings } from '../../demo/scenario.ts';
import type { Attribute } from '../attributes/attribute.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import { all, any, type Condition, not, test } from '../conditions/condition.ts';
import { compile } from '../conditions/evaluate.ts';
import { Membership } from '../deciding/membership.ts';
import { analyseCondition } from './condition-analysis.ts';
import { never } from './diagrams/diagrams.ts';
import { endOf, startOf } from './moments.ts';
import { World } from './world.ts';

const instant = Date.parse('2026-11-24T12:00:00Z');
const birthday: Attribute = {
  id: 'birthday',
  source: 'contact',
  label: 'birthday',
  description: '',
  type: 'date',
};
const attributes = [...demoAttributes, birthday];
const recurs = (start: string, minutes: number, rule: string) =>
  test('moment', 'recurs', start, minutes, rule);

function findings(condition: Condition, zone = 'Europe/London', now = instant) {
  const drafts = { settings: { ...demoSettings, zone }, attributes, audiences: [] };
  const { findings: found, refused } = analyseCondition(drafts, condition, null, now);
  expect(refused).toBeUndefined();
  return found;
}
const kinds = (condition: Condition, zone?: string, now?: number) =>
  findings(condition, zone, now).map(({ kind }) => kind);

/** The first moment at which a condition can hold, and whether it does for the viewer that is made up for it. */
function firstTrue(condition: Condition, zone = 'Europe/London', now = instant) {
  const catalogue = new Catalogue(attributes, zone);
  const world = new World({
    catalogue,
    membership: new Membership(catalogue, []),
    audiences: [],
    used: [],
    channel: 'page',
    instant: now,
    conditions: [condition],
  });
  const who = world.possibly(world.condition(condition));
  const cells = world.diagrams.example(who);
  if (who === never || !cells) return undefined;
  const viewer = world.viewer(cells);
  const holds = compile(condition, catalogue)(factsOf(catalogue, viewer));
  return { first: new Date(world.firstMoment(who) ?? 0).toISOString(), holds };
}

describe('windows that recur', () => {
  const evenings = recurs('2026-11-01T20:00', 60, 'FREQ=DAILY');

  it('are looked at through the whole year: an evening in July', () => {
    const inJuly = all(evenings, test('moment-month', 'is-one-of', 'july'));
    expect(kinds(inJuly)).toEqual([]);
    expect(firstTrue(inJuly)).toEqual({ first: '2027-07-01T19:00:00.000Z', holds: true });
  });

  it('are not always open where clocks are put back, though each lasts a day', () => {
    const daily = recurs('2026-11-01T20:00', 1440, 'FREQ=DAILY');
    expect(kinds(daily)).toEqual([]);
    // The day of 25 hours leaves one hour between two of them.
    expect(firstTrue(not(daily))).toEqual({ first: '2027-10-31T19:00:00.000Z', holds: true });
    // Where no clock is ever changed they are.
    expect(kinds(daily, 'Asia/Kolkata')).toEqual(['always-true']);
  });

  it('show every day of the month on every weekday, and the 29th of February', () => {
    const fridayThe13th = all(
      recurs('2027-08-13T09:00', 60, 'FREQ=MONTHLY;BYMONTHDAY=13'),
      test('moment-weekday', 'is-one-of', 'friday'),
      test('moment-month', 'is-one-of', 'february'),
    );
    expect(firstTrue(fridayThe13th)).toEqual({ first: '2032-02-13T09:00:00.000Z', holds: true });
    const leapDay = all(
      recurs('2028-02-29T09:00', 60, 'FREQ=YEARLY'),
      test('moment-weekday', 'is-one-of', 'saturday'),
    );
    expect(firstTrue(leapDay)).toEqual({ first: '2048-02-29T09:00:00.000Z', holds: true });
  });

  it('end by their count, and begin with their start', () => {
    expect(kinds(recurs('2026-11-02T20:00', 60, 'FREQ=DAILY;COUNT=3'))).toEqual(['over']);
    const later = recurs('2035-01-01T20:00', 60, 'FREQ=DAILY;COUNT=3');
    expect(kinds(all(later, test('moment', 'before', '2035-01-01T20:00')))).toEqual(['never-true']);
    expect(kinds(later)).toEqual(['coming']);
  });

  it('say until when something is proved where they do not repeat with the calendar', () => {
    const [odd, even] = [
      recurs('2026-11-24T20:00', 60, 'FREQ=DAILY;INTERVAL=2'),
      recurs('2026-11-25T20:00', 60, 'FREQ=DAILY;INTERVAL=2'),
    ];
    const [found] = findings(all(odd, even));
    expect(found?.kind).toBe('never-true');
    expect(found?.sentence).toMatch(/exclude each other\. Proved up to \d+ \w+ 2\d{3} at \d\d:\d\d\.$/);
    // What has nothing to do with them needs no date.
    const [plain] = findings(
      all(odd, test('tier', 'is-one-of', 'dusk'), test('tier', 'is-one-of', 'midnight')),
    );
    expect(plain?.sentence).toMatch(/exclude each other\.$/);
    // Neither does what repeats every week.
    const [weekly] = findings(
      all(
        recurs('2026-11-24T20:00', 60, 'FREQ=WEEKLY;BYDAY=TU'),
        test('moment-weekday', 'is-one-of', 'friday'),
      ),
    );
    expect(weekly?.sentence).toMatch(/exclude each other\.$/);
  });
});

describe('a fixed date, a relative date and a part of the year', () => {
  it('are looked at together long after the fixed date', () => {
    const condition = all(
      test('renewal', 'after', '2027-06-01'),
      test('renewal', 'within-next', 7),
      test('moment-month', 'is-one-of', 'january'),
    );
    expect(kinds(condition)).toEqual([]);
    expect(firstTrue(condition)).toEqual({ first: '2028-01-01T00:00:00.000Z', holds: true });
  });

  it('are looked at together where the date is far away', () => {
    const condition = all(
      test('renewal', 'on', '2091-03-10'),
      test('renewal', 'within-next', 30),
      test('moment-weekday', 'is-one-of', 'sunday'),
    );
    expect(firstTrue(condition)).toEqual({ first: '2091-02-11T00:00:00.000Z', holds: true });
    expect(kinds(all(condition, test('moment', 'before', '2091-02-01T00:00')))).toEqual(['never-true']);
  });
});

describe('clocks that are changed (IANA: London, New York, Lord Howe, Apia)', () => {
  it('leave nothing of a window over the hour that they skip, not even its first instant', () => {
    const skipped = test('moment', 'between', '2027-03-28T01:00', '2027-03-28T02:00');
    expect(kinds(skipped)).toEqual(['never-true']);
    const catalogue = new Catalogue(attributes, 'Europe/London');
    const at = (text: string) => {
      const viewer = { contact: null, signedIn: false, visit: {}, item: null, instant: Date.parse(text) };
      return compile(skipped, catalogue)(factsOf(catalogue, viewer));
    };
    expect([at('2027-03-28T00:59:59.999Z'), at('2027-03-28T01:00:00.000Z')]).toEqual([false, false]);
  });

  it.each([
    // After the second time that clocks show one o'clock, and still before two.
    ['Europe/London', '2027-10-31T01:45', '01:00', '01:30', '2027-10-31T01:00:00.000Z'],
    ['America/New_York', '2027-11-07T01:45', '01:00', '01:30', '2027-11-07T06:00:00.000Z'],
    // On Lord Howe Island clocks are put back by half an hour.
    ['Australia/Lord_Howe', '2027-04-04T01:45', '01:30', '01:40', '2027-04-03T15:00:00.000Z'],
  ])('show an hour twice: what holds only the second time can hold (%s)', (zone, after, from, to, first) => {
    const day = after.slice(0, 10);
    const condition = all(
      test('moment', 'from', after),
      test('moment', 'before', `${day}T12:00`),
      test('moment-time', 'between', from, to),
    );
    expect(kinds(condition, zone)).toEqual(['coming']);
    expect(firstTrue(condition, zone)).toEqual({ first, holds: true });
  });

  it('skip a day: on Samoa there was no 30th of December 2011', () => {
    const now = Date.parse('2011-12-01T00:00:00Z');
    const day = test('moment', 'between', '2011-12-30T00:00', '2011-12-31T00:00');
    expect(kinds(day, 'Pacific/Apia', now)).toEqual(['never-true']);
    expect(kinds(day, 'Europe/London', now)).toEqual(['coming']);
  });
});

describe('days of the year', () => {
  it('that do not come round within 364 days there are where a leap day lies between', () => {
    const condition = all(test('birthday', 'has-value'), not(test('birthday', 'anniversary-within', 364)));
    expect(kinds(condition)).toEqual([]);
    // From the first of March 2027 to the 28th of February 2028 are 364 days; whoever has the 29th waits one more.
    expect(firstTrue(condition)).toEqual({ first: '2027-03-01T00:00:00.000Z', holds: true });
    expect(
      kinds(all(test('birthday', 'has-value'), not(test('birthday', 'anniversary-within', 365)))),
    ).toEqual(['never-true']);
  });

  it('come round beside fixed days, whatever the year', () => {
    const condition = all(
      test('birthday', 'before', '1980-01-01'),
      test('birthday', 'after', '1979-12-20'),
      test('birthday', 'anniversary-within', 3),
      test('moment-weekday', 'is-one-of', 'sunday'),
    );
    expect(firstTrue(condition)).toEqual({ first: '2026-12-20T00:00:00.000Z', holds: true });
  });
});

describe('night hours beside weekdays', () => {
  const friday = test('moment-weekday', 'is-one-of', 'friday');
  const night = test('moment-time', 'between', '22:00', '02:00');
  const condition = all(friday, night, test('tier', 'has-value'));

  it('are found, with what is in and what is not', () => {
    const found = findings(condition).find(({ kind }) => kind === 'past-midnight');
    expect(found?.sentence).toBe(
      '22:00 to 02:00 runs past midnight, but a weekday ends there: before 02:00 Friday is in and Saturday is not.',
    );
    expect(found?.repairs.map(({ label }) => label)).toEqual([
      'Make it from Friday 22:00 to Saturday 02:00',
      'Keep both ends of Friday, before 02:00 and from 22:00',
    ]);
  });

  it('become the night from Friday to Saturday, or stay what they are', () => {
    const [throughTheNight, bothEnds] =
      findings(condition).find(({ kind }) => kind === 'past-midnight')?.repairs ?? [];
    const catalogue = new Catalogue(attributes, 'UTC');
    const at = (of: Condition, text: string) => {
      const viewer = {
        contact: { tier: 'dusk' },
        signedIn: true,
        visit: {},
        item: null,
        instant: Date.parse(text),
      };
      return compile(of, catalogue)(factsOf(catalogue, viewer));
    };
    // The 27th of November 2026 is a Friday.
    const times = [
      '2026-11-27T01:00:00Z',
      '2026-11-27T23:00:00Z',
      '2026-11-28T01:00:00Z',
      '2026-11-28T02:00:00Z',
    ];
    const nobody = any();
    expect(times.map((time) => at(condition, time))).toEqual([true, true, false, false]);
    expect(times.map((time) => at(throughTheNight?.condition ?? nobody, time))).toEqual([
      false,
      true,
      true,
      false,
    ]);
    expect(times.map((time) => at(bothEnds?.condition ?? nobody, time))).toEqual([true, true, false, false]);
    expect([bothEnds?.joins, bothEnds?.leaves]).toEqual([null, null]);
    expect(throughTheNight?.joins).not.toBeNull();
  });

  it.each([
    ['on every day of the week', all(test('moment-weekday', 'between', 'monday', 'sunday'), night)],
    ['that end at midnight', all(friday, test('moment-time', 'between', '22:00', '00:00'))],
    ['by themselves', night],
  ])('are no finding %s', (_name, plain) => {
    expect(kinds(plain)).not.toContain('past-midnight');
  });
});

describe('what is coming', () => {
  it('is said with its date, and weekdays are not taken for it', () => {
    const [coming] = findings(test('moment', 'between', '2026-12-01T09:00', '2026-12-24T18:00'));
    expect(coming?.kind).toBe('coming');
    expect(coming?.sentence).toBe('Nobody is in it yet: it starts on 1 December 2026 at 09:00.');
    expect(kinds(test('moment-weekday', 'is-one-of', 'friday'))).toEqual([]);
    const friday = all(
      test('moment', 'from', '2026-12-01T09:00'),
      test('moment-weekday', 'is-one-of', 'friday'),
    );
    expect(findings(friday)[0]?.sentence).toContain('4 December 2026 at 00:00');
  });
});

describe('when a window opens and closes', () => {
  const catalogue = new Catalogue(attributes, 'Europe/London');
  it('is known of what has bounds, and of nothing else', () => {
    const later = test('moment', 'between', '2026-12-01T09:00', '2026-12-02T09:00');
    expect(startOf(later, catalogue, instant)).toBe(Date.parse('2026-12-01T09:00Z'));
    expect(endOf(later, catalogue)).toBe(Date.parse('2026-12-02T09:00Z'));
    expect(startOf(later, catalogue, Date.parse('2026-12-01T10:00Z'))).toBeUndefined();
    const weekly = recurs('2026-12-01T20:00', 60, 'FREQ=WEEKLY;COUNT=2');
    expect(startOf(weekly, catalogue, instant)).toBe(Date.parse('2026-12-01T20:00Z'));
    expect(endOf(weekly, catalogue)).toBe(Date.parse('2026-12-08T21:00Z'));
    for (const without of [
      test('moment', 'has-value'),
      test('moment-weekday', 'is-one-of', 'friday'),
      test('birthday', 'after', '2026-12-01'),
      test('moment', 'before', '2026-12-01T09:00'),
    ])
      expect(startOf(without, catalogue, instant)).toBeUndefined();
  });
});
