import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import { describe, expect, it } from 'vitest';
import { dayLength, instantOf, localTime, zoneOffset } from './calendar.ts';
import { countryCodes, countryName, findCountry } from './countries.ts';
import { lookup, readLanguages } from './languages.ts';
import { addressNumber, addressOfNumber, contains, readAddress, readNetwork } from './networks.ts';
import { matchesPattern, pathPattern } from './patterns.ts';

describe('languages', () => {
  // RFC 4647, section 3.4: the worked example of lookup, one range shortened step by step.
  it('shortens a range as the worked example does', () => {
    const range = 'zh-Hant-CN-x-private1-private2';
    const steps = ['zh-Hant-CN-x-private1-private2', 'zh-Hant-CN-x-private1', 'zh-Hant-CN', 'zh-Hant', 'zh'];
    for (const step of steps) expect(lookup([range], [step])).toBe(step);
    // "zh-Hant-CN-x" is no step: the single letter goes with what stood behind it.
    expect(lookup([range], ['zh-Hant-CN-x'])).toBeUndefined();
    expect(lookup([range], ['fr'])).toBeUndefined();
    expect(lookup(['fr-FR', 'zh-Hant'], ['zh-Hant', 'zh-Hans'])).toBe('zh-Hant');
    expect(lookup(['DE-ch'], ['de'])).toBe('de');
  });

  // RFC 9110, section 12.5.4: the example of Accept-Language.
  it('reads a header by its weights', () => {
    expect(readLanguages('da, en-gb;q=0.8, en;q=0.7')).toEqual(['da', 'en-gb', 'en']);
    expect(readLanguages('en;q=0.1, fr; q = 0.9, de;q=0, *;q=0.5, not a tag')).toEqual(['fr', 'en']);
    expect(readLanguages('')).toEqual([]);
  });
});

describe('IP addresses', () => {
  // RFC 5952, sections 1, 2 and 4: the many forms of one address, and the one that is canonical.
  it.each([
    ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:0db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:db8::1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:DB8:AAAA:BBBB:CCCC:DDDD:EEEE:AAAA', '2001:db8:aaaa:bbbb:cccc:dddd:eeee:aaaa'],
    ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'],
    ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1'],
    ['::ffff:192.0.2.1', '192.0.2.1'],
  ])('%s is %s', (text, canonical) => expect(readAddress(text)).toBe(canonical));

  it.each([
    '127.1',
    '0x7f.0.0.1',
    '192.0.2.256',
    '192.0.2',
    'fe80::1%eth0',
    '2001:db8:::1',
    '',
    'localhost',
    '1'.repeat(500),
  ])('takes %j for none', (text) => expect(readAddress(text)).toBeUndefined());

  // RFC 4632, section 3.1: prefixes and the addresses they hold; RFC 5737 and 3849 for documentation.
  it.each([
    ['192.0.2.0/24', ['192.0.2.0', '192.0.2.255'], ['192.0.1.255', '192.0.3.0']],
    ['198.51.100.128/25', ['198.51.100.128', '198.51.100.255'], ['198.51.100.127']],
    ['203.0.113.7', ['203.0.113.7'], ['203.0.113.6', '203.0.113.8']],
    ['0.0.0.0/0', ['0.0.0.0', '255.255.255.255'], ['::', '::1']],
    [
      '2001:db8::/32',
      ['2001:db8::', '2001:db8:ffff:ffff:ffff:ffff:ffff:ffff'],
      ['2001:db9::', '32.1.13.184'],
    ],
  ])('%s', (range, inside, outside) => {
    const network = readNetwork(range);
    if (!network) throw new Error(range);
    for (const address of inside)
      expect([address, contains([network], addressNumber(address))]).toEqual([address, true]);
    for (const address of outside)
      expect([address, contains([network], addressNumber(address))]).toEqual([address, false]);
  });

  it.each([
    '192.0.2.1/24',
    '192.0.2.0/33',
    '192.0.2.0/-1',
    '192.0.2.0/',
    '2001:db8::1/32',
    '192.0.2.0/24/1',
    'net',
  ])('takes %j for no range', (text) => expect(readNetwork(text)).toBeUndefined());

  it('agrees with ipaddr.js on any v4 range and address, and gives numbers back as addresses', () => {
    fc.assert(
      fc.property(fc.ipV4(), fc.ipV4(), fc.integer({ min: 0, max: 32 }), (address, base, prefix) => {
        const start = ipaddr.IPv4.networkAddressFromCIDR(`${base}/${prefix}`).toString();
        const network = readNetwork(`${start}/${prefix}`);
        if (!network) throw new Error(`${start}/${prefix}`);
        const wanted = ipaddr.IPv4.parse(address).match(ipaddr.IPv4.parse(start), prefix);
        expect(contains([network], addressNumber(address))).toBe(wanted);
        expect(addressOfNumber(addressNumber(address))).toBe(address);
      }),
    );
  });
});

// ISO 3166-1: 249 officially assigned alpha-2 codes.
it('has the 249 country codes, each with a name', () => {
  expect(new Set(countryCodes).size).toBe(249);
  for (const code of countryCodes) expect(countryName(code)).not.toBe(code);
  expect([findCountry('gb'), findCountry('germany'), findCountry('UK'), findCountry('Atlantis')]).toEqual([
    'GB',
    'DE',
    undefined,
    undefined,
  ]);
});

// IANA tz through Intl: the yearly changes of London and New York in 2026, a day of 23 hours and one of 25.
describe('clocks', () => {
  const hoursOf = (day: string, zone: string): number => {
    const number = Date.parse(`${day}T00:00:00Z`) / dayLength;
    return (
      (instantOf({ day: number + 1, minute: 0 }, zone) - instantOf({ day: number, minute: 0 }, zone)) /
      3_600_000
    );
  };
  it.each([
    ['Europe/London', '2026-03-29', 23],
    ['Europe/London', '2026-10-25', 25],
    ['America/New_York', '2026-03-08', 23],
    ['America/New_York', '2026-11-01', 25],
    ['Europe/London', '2026-06-01', 24],
  ])('%s: %s has %i hours', (zone, day, hours) => expect(hoursOf(day, zone)).toBe(hours));

  it('come back to the minute they were read at, but for the hour that is shown twice', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: Date.parse('2020-01-01') / 60_000, max: Date.parse('2035-01-01') / 60_000 }),
        fc.constantFrom('Europe/London', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'UTC'),
        (minutes, zone) => {
          const instant = minutes * 60_000;
          const back = instantOf(localTime(instant, zone), zone);
          // The first of two instants that clocks show alike.
          const twice = zoneOffset(back, zone) !== zoneOffset(instant, zone);
          expect(back === instant || (twice && back < instant)).toBe(true);
        },
      ),
    );
  });
});

describe('patterns of paths', () => {
  it.each([
    ['/guides/*', ['/guides/moon', '/guides/'], ['/guides', '/guides/moon/phases']],
    ['/guides/**', ['/guides/', '/guides/moon/phases'], ['/guides', '/shop']],
    ['**/moon', ['/moon', '/guides/moon'], ['/moonlight']],
    ['/*/moon/*', ['/guides/moon/phases'], ['/guides/moon', '/a/b/moon/c']],
    ['/a*c', ['/ac', '/abc'], ['/a/c']],
    ['**', ['/', '/anything/at/all'], []],
  ])('%s', (pattern, inside, outside) => {
    for (const path of inside)
      expect([path, matchesPattern(pathPattern(pattern), path)]).toEqual([path, true]);
    for (const path of outside)
      expect([path, matchesPattern(pathPattern(pattern), path)]).toEqual([path, false]);
  });

  it('agree with a regular expression made of them', () => {
    const piece = fc.constantFrom('a', 'b', '/', '*', '**');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), fc.stringMatching(/^[ab/]{0,10}$/), (pieces, path) => {
        const expression = pieces.join('').replace(/\*\*?/g, (stars) => (stars === '**' ? '.*' : '[^/]*'));
        expect(matchesPattern(pathPattern(pieces.join('')), path)).toBe(
          new RegExp(`^${expression}$`).test(path),
        );
      }),
      { numRuns: 1000 },
    );
  });
});
