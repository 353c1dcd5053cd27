import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { visitAttributes } from '../attributes/builtin.ts';
import { readValue } from '../attributes/parse.ts';
import { readAgent } from './agent.ts';
import { originOf } from './origin.ts';
import { placeOf } from './places.ts';
import { nextRecord, type PageRequest, visitEnds, visitOf, visitRecordSchema } from './visit.ts';

const agents = {
  phone:
    'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Mobile/15E148 Safari/604.1',
  tablet:
    'Mozilla/5.0 (iPad; CPU OS 18_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Mobile/15E148 Safari/604.1',
  computer: 'Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:140.0) Gecko/20100101 Firefox/140.0',
  chrome:
    'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Mobile Safari/537.36',
  bot: 'Mozilla/5.0 (compatible; Googlebot/2.1; +http://www.google.com/bot.html)',
};

describe('the program and the device', () => {
  it.each([
    [agents.phone, { device: 'phone', browser: 'safari', system: 'ios' }],
    [agents.tablet, { device: 'tablet', browser: 'safari', system: 'ios' }],
    [agents.computer, { device: 'computer', browser: 'firefox', system: 'windows' }],
    [agents.chrome, { device: 'phone', browser: 'chrome', system: 'android' }],
  ])('%s', (agent, wanted) => {
    expect(readAgent({ 'user-agent': agent })).toEqual({ ...wanted, isBot: false });
  });

  it('believes the hints of the client before the user agent', () => {
    const hints = {
      'user-agent': agents.chrome,
      'sec-ch-ua': '"Not=A?Brand";v="99", "Chromium";v="142", "Microsoft Edge";v="142"',
      'sec-ch-ua-mobile': '?0',
      'sec-ch-ua-platform': '"Chrome OS"',
    };
    expect(readAgent(hints)).toMatchObject({ browser: 'edge', system: 'chromeos' });
    expect(readAgent({ ...hints, 'sec-ch-ua': '"Chromium";v="142", "Google Chrome";v="142"' }).browser).toBe(
      'chrome',
    );
  });

  it('knows bots, and nothing of a request that says nothing', () => {
    expect(readAgent({ 'user-agent': agents.bot }).isBot).toBe(true);
    expect(readAgent({})).toEqual({ device: undefined, browser: undefined, system: undefined, isBot: false });
    // Known by its name alone, which does not say what it is.
    expect(readAgent({ 'user-agent': 'facebookexternalhit/1.1' }).isBot).toBe(true);
    expect(readAgent({ 'user-agent': 'Mozilla/5.0 (compatible; A made-up spider)' }).isBot).toBe(true);
    expect(readAgent({ 'user-agent': 'x'.repeat(100_000) }).isBot).toBe(false);
  });
});

describe('where visitors come from', () => {
  it.each<[string | undefined, string, string, string | undefined]>([
    [undefined, '', 'direct', undefined],
    ['https://www.google.co.uk/', '', 'search', 'google.co.uk'],
    ['https://duckduckgo.com/?q=stars', '', 'search', 'duckduckgo.com'],
    ['https://mail.google.com/mail/u/0', '', 'email', 'mail.google.com'],
    ['https://l.facebook.com/l.php', '', 'social', 'l.facebook.com'],
    ['https://www.quillmere.example.org/shop', '', 'own-site', 'quillmere.example.org'],
    ['https://notgoogle.example.org/', '', 'another-site', 'notgoogle.example.org'],
    ['https://www.google.com/', 'gclid=abc', 'advert', 'google.com'],
    [undefined, 'utm_medium=CPC', 'advert', undefined],
    ['https://www.google.com/', 'utm_medium=email', 'email', 'google.com'],
    ['javascript:alert(1)', '', 'direct', undefined],
    ['not an address', '', 'direct', undefined],
  ])('%s with %s: %s', (referrer, query, cameBy, host) => {
    expect(originOf(referrer, new URLSearchParams(query), 'quillmere.example.org')).toEqual({ cameBy, host });
  });

  // RFC 5737 and RFC 3849: addresses for documentation.
  it.each([
    ['192.0.2.1', 'GB', 'Quillshire'],
    ['192.0.2.200', 'GB', 'Northmere'],
    ['::ffff:198.51.100.7', 'DE', 'Sternau'],
    ['2001:DB8:0:0::9', 'GB', 'Quillshire'],
    ['2001:db8:ffff::', 'DE', 'Sternau'],
  ])('%s is in %s, %s', (address, country, region) => {
    expect(placeOf(address)).toEqual({ country, region });
  });

  it('knows nothing of other addresses, and of what is none', () => {
    for (const address of ['127.0.0.1', '8.8.8.8', '2001:db9::1', '', 'localhost', '192.0.2.1/24'])
      expect(placeOf(address)).toBeUndefined();
  });
});

describe('a visit', () => {
  const request: PageRequest = {
    url: '/site/guides/m%C3%B6nd?utm_source=almanac&utm_campaign=December&ref=friend&utm_term=',
    headers: {
      'user-agent': agents.phone,
      'accept-language': 'de-CH, en;q=0.8',
      referer: 'https://www.bing.com/search',
      host: 'quillmere.example.org:4310',
    },
    address: '203.0.113.200',
    cookies: { seen: 'tour' },
    record: { visits: 3, pages: 2, began: 1_000, seen: 62_500, items: { moon: 4 } },
    item: 'moon',
  };
  const own: Attribute[] = [
    {
      id: 'ref',
      source: 'visit',
      type: 'text',
      label: 'ref',
      description: '',
      reads: { from: 'query', name: 'ref' },
    },
    {
      id: 'tour',
      source: 'visit',
      type: 'text',
      label: 'tour',
      description: '',
      reads: { from: 'cookie', name: 'seen' },
    },
    {
      id: 'none',
      source: 'visit',
      type: 'text',
      label: 'none',
      description: '',
      reads: { from: 'query', name: 'none' },
    },
  ];

  it('has the value of every attribute that the request tells, each of its type', () => {
    const visit = visitOf(request, own);
    expect(visit).toEqual({
      ref: 'friend',
      tour: 'tour',
      none: undefined,
      'visit-device': 'phone',
      'visit-browser': 'safari',
      'visit-system': 'ios',
      'visit-language': ['de-CH', 'en'],
      'visit-address': '203.0.113.200',
      'visit-country': 'US',
      'visit-region': 'New Larkhaven',
      'visit-came-by': 'search',
      'visit-referrer': 'bing.com',
      'visit-campaign': 'December',
      'visit-campaign-source': 'almanac',
      'visit-campaign-medium': undefined,
      'visit-campaign-term': undefined,
      'visit-campaign-content': undefined,
      'visit-path': '/site/guides/mönd',
      'visit-pages': 2,
      'visit-count': 3,
      'visit-returning': true,
      'visit-item-views': 4,
      'visit-seconds': 61,
    });
    for (const attribute of visitAttributes) {
      const value = visit[attribute.id];
      expect(Object.hasOwn(visit, attribute.id)).toBe(true);
      if (value !== undefined) expect(readValue(attribute, value)).toEqual(value);
    }
  });

  it('has the path without its query, however long either is', () => {
    const path = (url: string) => visitOf({ ...request, url }, own)['visit-path'];
    expect(path('/moon?a=1?b')).toBe('/moon');
    expect(path('/moon')).toBe('/moon');
    expect(path('?a=1')).not.toBe('?a=1');
    expect(String(path(`/${'x'.repeat(9000)}`)).length).toBeLessThan(9000);
  });

  it('has what is asked for and no more', () => {
    const asked = new Set(['visit-country', 'visit-campaign', 'ref', 'tier']);
    expect(visitOf(request, own, asked)).toEqual({
      ref: 'friend',
      'visit-country': 'US',
      'visit-campaign': 'December',
    });
  });

  it('of a bot has nothing, and a broken address is taken as it is', () => {
    expect(visitOf({ ...request, headers: { 'user-agent': agents.bot } }, own)).toEqual({});
    expect(visitOf({ ...request, url: '/%E0%A4%A' }, own)['visit-path']).toBe('/%E0%A4%A');
  });

  it('goes on from page to page, and begins anew after half an hour', () => {
    const first = nextRecord(undefined, 1000);
    expect(first).toEqual({ visits: 1, pages: 1, began: 1000, seen: 1000, items: {} });
    const second = nextRecord(first, 61_000, 'moon');
    expect(second).toMatchObject({ visits: 1, pages: 2, began: 1000, items: { moon: 1 } });
    expect(nextRecord(second, 61_000 + visitEnds - 1)).toMatchObject({ visits: 1, pages: 3 });
    const later = nextRecord(second, 61_000 + visitEnds, 'moon');
    expect(later).toMatchObject({ visits: 2, pages: 1, began: 61_000 + visitEnds, items: { moon: 2 } });
    expect(visitRecordSchema.parse(later)).toEqual(later);
  });

  it('remembers the latest forty items', () => {
    let record = nextRecord(undefined, 0, 'first');
    for (let at = 0; at < 60; at++) record = nextRecord(record, at, `item${at}`);
    expect(Object.keys(record.items)).toHaveLength(40);
    expect(record.items.first).toBeUndefined();
    expect(record.items.item59).toBe(1);
  });
});
