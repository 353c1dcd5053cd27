import { describe, expect, it } from 'vitest';
import { instantOf, instantsOf, localDay, readLocalTime } from './calendar.ts';
import { clockChanges, instantsOfDays } from './clock-changes.ts';

const hour = 3_600_000;
const at = (text: string) => Date.parse(text);
const local = (text: string) => {
  const time = readLocalTime(text);
  if (!time) throw new Error(text);
  return time;
};
const day = (text: string) => local(`${text}T00:00`).day;

// IANA time zone database, files europe, northamerica and australasia (values from memory, as RFC 6557 publishes them).
describe('changes of clocks', () => {
  it('are those from the first instant on, and before the last', () => {
    const change = at('2026-03-29T01:00:00Z');
    const times = (from: number, until: number) =>
      clockChanges(from, until, 'Europe/London').map((found) => found.at);
    expect(times(change, change + 1)).toEqual([change]);
    expect(times(change - hour, change)).toEqual([]);
    expect(times(change + 1, change + hour)).toEqual([]);
  });

  it.each<[string, string, string, [string, number][]]>([
    [
      'Europe/London',
      '2026-01-01',
      '2027-01-01',
      [
        ['2026-03-29T01:00:00Z', 1],
        ['2026-10-25T01:00:00Z', -1],
      ],
    ],
    [
      'America/New_York',
      '2026-01-01',
      '2027-01-01',
      [
        ['2026-03-08T07:00:00Z', 1],
        ['2026-11-01T06:00:00Z', -1],
      ],
    ],
    // Half an hour, on the first Sundays of April and October.
    [
      'Australia/Lord_Howe',
      '2026-01-01',
      '2027-01-01',
      [
        ['2026-04-04T15:00:00Z', -0.5],
        ['2026-10-03T15:30:00Z', 0.5],
      ],
    ],
    // The 30th of December 2011 was left out on Samoa.
    ['Pacific/Apia', '2011-12-01', '2012-01-31', [['2011-12-30T10:00:00Z', 24]]],
    // One minute past midnight, until 2011.
    [
      'America/St_Johns',
      '2010-01-01',
      '2011-01-01',
      [
        ['2010-03-14T03:31:00Z', 1],
        ['2010-11-07T02:31:00Z', -1],
      ],
    ],
    ['UTC', '2000-01-01', '2030-01-01', []],
  ])('%s from %s until %s', (zone, from, until, wanted) => {
    const found = clockChanges(at(`${from}T00:00:00Z`), at(`${until}T00:00:00Z`), zone);
    expect(
      found.map(({ at: instant, before, after }) => [
        new Date(instant).toISOString(),
        (after - before) / hour,
      ]),
    ).toEqual(wanted.map(([instant, by]) => [new Date(instant).toISOString(), by]));
  });

  it('finds the same in any span', () => {
    const all = clockChanges(at('2020-01-01T00:00:00Z'), at('2032-01-01T00:00:00Z'), 'Europe/London');
    expect(all).toHaveLength(24);
    for (const change of all)
      expect(clockChanges(change.at, change.at + 1, 'Europe/London')).toEqual([change]);
  });
});

describe('the instants of a local time', () => {
  it.each<[string, string, string[]]>([
    ['Europe/London', '2026-03-29T01:30', []],
    ['Europe/London', '2026-10-25T01:30', ['2026-10-25T00:30:00Z', '2026-10-25T01:30:00Z']],
    ['Europe/London', '2026-10-25T02:00', ['2026-10-25T02:00:00Z']],
    ['Australia/Lord_Howe', '2026-04-05T01:45', ['2026-04-04T14:45:00Z', '2026-04-04T15:15:00Z']],
    ['Pacific/Apia', '2011-12-30T12:00', []],
    ['Pacific/Apia', '2011-12-31T00:00', ['2011-12-30T10:00:00Z']],
  ])('%s %s', (zone, time, wanted) => {
    expect(instantsOf(local(time), zone)).toEqual(wanted.map(at));
    const [first] = wanted;
    if (first) expect(instantOf(local(time), zone)).toBe(at(first));
  });

  it('follow after a time that clocks skip as if they had not been put forward (RFC 5545, 3.3.5)', () => {
    expect(instantOf(local('2026-03-29T01:30'), 'Europe/London')).toBe(at('2026-03-29T01:30:00Z'));
    expect(instantOf(local('2011-12-30T00:00'), 'Pacific/Apia')).toBe(at('2011-12-30T10:00:00Z'));
  });
});

describe('the instants of local days', () => {
  it.each([
    ['Europe/London', '2026-03-28', '2026-03-30'],
    ['Europe/London', '2026-10-25', '2026-10-25'],
    ['Australia/Lord_Howe', '2026-04-05', '2026-04-06'],
    ['Pacific/Apia', '2011-12-28', '2011-12-29'],
    ['Pacific/Apia', '2011-12-30', '2011-12-30'],
    ['Pacific/Apia', '2011-12-29', '2012-01-01'],
    // Clocks went from one minute past midnight back to the day before.
    ['America/St_Johns', '2010-11-06', '2010-11-06'],
    ['America/St_Johns', '2010-11-07', '2010-11-08'],
  ])('in %s from %s to %s are those whose day is one of them', (zone, first, last) => {
    const stretches = instantsOfDays(day(first), day(last), zone);
    const isIn = (instant: number) => stretches.some(({ from, until }) => instant >= from && instant < until);
    for (
      let instant = at(`${first}T00:00:00Z`) - 30 * hour;
      instant < at(`${last}T00:00:00Z`) + 54 * hour;
      instant += 60_000
    ) {
      const own = localDay(instant, zone);
      if (isIn(instant) !== (own >= day(first) && own <= day(last)))
        throw new Error(`${zone} ${new Date(instant).toISOString()}`);
    }
    expect(stretches.length).toBe(first === '2011-12-30' ? 0 : zone === 'America/St_Johns' ? 2 : 1);
  });
});
