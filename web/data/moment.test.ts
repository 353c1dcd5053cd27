import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { instantOf, localInput, momentLabel } from './moment.ts';

const zones = ['Europe/London', 'America/St_Johns', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'UTC'];

describe('the moment field', () => {
  it('gives the minute back that it showed, but for the hour that comes twice', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: Date.UTC(2020, 0, 1) / 60_000, max: Date.UTC(2040, 0, 1) / 60_000 }),
        (zone, minute) => {
          const shown = localInput(minute * 60_000, zone);
          const back = instantOf(shown, zone);
          if (back === undefined) throw new Error(shown);
          expect(localInput(back, zone)).toBe(shown);
          // No zone's clock is put back by more than an hour in these years.
          expect(Math.abs(back - minute * 60_000)).toBeLessThanOrEqual(3_600_000);
        },
      ),
    );
  });

  // The clocks of the United Kingdom: Summer Time Act 1972, last Sunday of March and October at 01:00 UTC.
  it.each([
    ['2026-03-29T00:59', '2026-03-29T00:59:00Z'],
    ['2026-03-29T02:00', '2026-03-29T01:00:00Z'],
    ['2026-10-25T00:59', '2026-10-24T23:59:00Z'],
    ['2026-10-25T02:00', '2026-10-25T02:00:00Z'],
  ])('reads %s in London as %s', (local, instant) => {
    expect(instantOf(local, 'Europe/London')).toBe(Date.parse(instant));
  });

  it.each(['', '2026-13-01T00:00', '2026-02-30T10:00', 'tomorrow'])('takes “%s” for no moment', (text) => {
    expect(instantOf(text, 'Europe/London')).toBeUndefined();
  });

  it('is said with its weekday, in the site’s zone', () => {
    expect(momentLabel(Date.parse('2026-11-28T23:30:00Z'), 'Europe/London')).toBe('Sat 28 Nov, 23:30');
    expect(momentLabel(Date.parse('2026-11-28T23:30:00Z'), 'Asia/Kathmandu')).toBe('Sun 29 Nov, 05:15');
  });
});
