import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Attribute } from '../attributes/attribute.ts';
import { isoDate } from '../attributes/calendar.ts';
import { Catalogue } from '../attributes/catalogue.ts';
import { factsOf } from '../attributes/viewer.ts';
import { compile } from '../conditions/evaluate.ts';
import { type Bin, dateBins, numberBins } from './bins.ts';

const base = { source: 'contact', description: '' } as const;
const attributes: Attribute[] = [
  { ...base, id: 'visits', label: 'visits', type: 'number', whole: true },
  { ...base, id: 'gift', label: 'gift', type: 'number' },
  { ...base, id: 'joined', label: 'joined', type: 'date' },
  { ...base, id: 'seen', label: 'seen', type: 'date-time' },
];
const catalogue = new Catalogue(attributes, 'Europe/London');
const [visits, gift, joined, seen] = attributes as [Attribute, Attribute, Attribute, Attribute];

function holding(bins: readonly Bin[], contact: { [attribute: string]: unknown }): string[] {
  const facts = factsOf(catalogue, { contact, signedIn: false, visit: {}, item: null, instant: 0 });
  return bins.filter(({ condition }) => compile(condition, catalogue)(facts)).map(({ label }) => label);
}

const number = fc.oneof(
  fc.integer({ min: -1_000_000, max: 1_000_000 }),
  fc.double({ min: -1e9, max: 1e9, noNaN: true }),
);

describe('stretches of values', () => {
  it('hold every number once, and are few', () => {
    fc.assert(
      fc.property(number, number, fc.double({ min: 0, max: 1, noNaN: true }), (one, two, share) => {
        const [low, high] = [Math.min(one, two), Math.max(one, two)];
        const bins = numberBins(gift, low, high);
        expect(bins.length).toBeLessThanOrEqual(27);
        // What is added up may be rounded past the end.
        for (const value of [low, high, Math.min(high, low + share * (high - low))])
          expect(holding(bins, { gift: value })).toHaveLength(1);
      }),
    );
  });

  it('are single numbers where these are whole and few, and round widths otherwise', () => {
    expect(numberBins(visits, 0, 4).map(({ label }) => label)).toEqual(['0', '1', '2', '3', '4']);
    expect(
      numberBins(visits, 3, 97)
        .map(({ label }) => label)
        .slice(0, 2),
    ).toEqual(['0–4', '5–9']);
    expect(numberBins(gift, 0.5, 0.5)).toHaveLength(1);
  });

  it('hold every date and every instant once', () => {
    const day = fc.integer({ min: -20_000, max: 40_000 });
    fc.assert(
      fc.property(day, day, (one, two) => {
        const [low, high] = [isoDate(Math.min(one, two)), isoDate(Math.max(one, two))];
        const bins = dateBins(joined, low, high);
        expect(bins.length).toBeLessThanOrEqual(27);
        for (const date of [low, high]) expect(holding(bins, { joined: date })).toHaveLength(1);
        const moments = dateBins(seen, low, high);
        for (const date of [low, high])
          expect(holding(moments, { seen: `${date}T12:00:00.000Z` })).toHaveLength(1);
      }),
    );
  });

  it('are months, quarters or years by how long it is', () => {
    expect(dateBins(joined, '2025-11-20', '2026-01-02').map(({ label }) => label)).toEqual([
      'Nov 2025',
      'Dec 2025',
      'Jan 2026',
    ]);
    expect(dateBins(joined, '2022-05-01', '2025-01-02')[0]?.label).toBe('Apr–Jun 2022');
    expect(dateBins(joined, '2005-05-01', '2025-01-02')[0]?.label).toBe('2005');
  });
});
