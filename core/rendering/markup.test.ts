import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countdownText, recognisedAddress } from './markup.ts';
import { linkTarget } from './text-markup.ts';

const minute = 60_000;

describe('a countdown', () => {
  it('says the two largest units that there are, one of one and many of others, and none of nothing', () => {
    const said = (minutes: number) =>
      countdownText({ kind: 'countdown', until: minutes * minute, over: 'It is now' }, 0);
    expect(
      [0, -5, 1, 2, 59, 60, 61, 120, 1439, 1440, 1441, 2880, 2940, 14_400].map((minutes) => said(minutes)),
    ).toEqual([
      'It is now',
      'It is now',
      '1 minute',
      '2 minutes',
      '59 minutes',
      '1 hour',
      '1 hour and 1 minute',
      '2 hours',
      '23 hours and 59 minutes',
      '1 day',
      '1 day',
      '2 days',
      '2 days and 1 hour',
      '10 days',
    ]);
  });

  it('is over exactly when the moment has come (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: -1e9, max: 1e9 }), fc.integer({ min: 0, max: 1e9 }), (left, now) => {
        const text = countdownText({ kind: 'countdown', until: now + left, over: 'over' }, now);
        expect(text === 'over').toBe(left <= 0);
      }),
    );
  });
});

describe('what a link leads to', () => {
  it('is its address on the site, and from mail one by which the reader is recognised there and nowhere else', () => {
    expect(linkTarget('/site/shop', '')).toBe('/site/shop');
    expect(linkTarget('/site/shop', 'https://porch.example.org')).toEqual({
      known: 'https://porch.example.org/site/shop',
    });
    expect(linkTarget('https://www.example.org/site/shop', 'https://porch.example.org')).toBe(
      'https://www.example.org/site/shop',
    );
    expect(linkTarget('javascript:alert(1)', '')).toBeUndefined();
  });
});

describe('an address that says who comes', () => {
  it('keeps its query and its fragment', () => {
    expect(recognisedAddress('/site/', 't')).toBe('/site/?k=t');
    expect(recognisedAddress('/site/guides?a=1', 't')).toBe('/site/guides?a=1&k=t');
    expect(recognisedAddress('/site/guides#late', 't&x')).toBe('/site/guides?k=t%26x#late');
    expect(recognisedAddress('/site/guides#late', undefined)).toBe('/site/guides#late');
  });
});
