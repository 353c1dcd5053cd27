import { describe, expect, it } from 'vitest';
import { demoSnapshot } from '../../../demo/scenario.ts';
import { isPlace } from './places.ts';

const { documents, collections = [], items = [] } = demoSnapshot;

describe('a place that a link leads to', () => {
  it.each(['', 'membership', 'sign-in', 'search', 'sitemap.xml', 'guides/star-chart', 'guides/feed.xml'])(
    '“%s” is there',
    (place) => expect(isPlace(place, documents, { collections, items })).toBe(true),
  );

  it.each([
    'nowhere',
    'Membership',
    'guides',
    'guides/nowhere',
    'goods/star-chart',
    'nowhere/feed.xml',
    // An email, and the page that shows each guide, have no address of their own.
    'monthly-almanac',
    'guide',
  ])('“%s” is not', (place) => expect(isPlace(place, documents, { collections, items })).toBe(false));
});
