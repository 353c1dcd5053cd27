import { describe, expect, it } from 'vitest';
import { type Attribute, choicesOf } from './attribute.ts';
import { dayNumber, isoDate, isZone, localDay } from './calendar.ts';
import { Catalogue } from './catalogue.ts';
import { formatValue } from './format.ts';
import { parseValue, readValue } from './parse.ts';
import { factsOf } from './viewer.ts';

const contact = { source: 'contact', label: 'it', description: '' } as const;
const attribute = {
  yes: { ...contact, id: 'yes', type: 'yes-no' },
  tier: {
    ...contact,
    id: 'tier',
    type: 'choice',
    ordered: true,
    choices: [
      { id: 'dusk', label: 'Dusk' },
      { id: 'midnight', label: 'Midnight' },
    ],
  },
  tags: {
    ...contact,
    id: 'tags',
    type: 'set',
    choices: ['moon', 'sun', 'family'].map((id) => ({ id, label: id })),
    exclusiveGroups: [{ name: 'outcome', members: ['moon', 'sun'] }],
  },
  visits: { ...contact, id: 'visits', type: 'number' },
  renewal: { ...contact, id: 'renewal', type: 'date' },
  city: { ...contact, id: 'city', type: 'text' },
} satisfies Record<string, Attribute>;

describe('calendar days', () => {
  it('counts days from 1970 and back', () => {
    expect(dayNumber('1970-01-01')).toBe(0);
    expect(dayNumber('1970-01-02')).toBe(1);
    expect(dayNumber('2000-03-01')).toBe(11_017);
    for (const date of ['1969-12-31', '2024-02-29', '2026-11-24', '9999-12-31'])
      expect(isoDate(dayNumber(date) ?? Number.NaN)).toBe(date);
  });

  it('agrees with the calendar of Date on every day from 1899 to 2101', () => {
    for (let time = Date.UTC(1899, 0, 1); time < Date.UTC(2101, 0, 1); time += 86_400_000)
      if (dayNumber(new Date(time).toISOString().slice(0, 10)) !== time / 86_400_000)
        throw new Error(new Date(time).toISOString());
  });

  it.each(['2026-02-30', '2025-02-29', '29/11/2026', '2026-13-01', '2026-1-1', '', '0000-01-01'])(
    'refuses %j, which is no date',
    (text) => expect(dayNumber(text)).toBeUndefined(),
  );

  // IANA tz: London left summer time on 2026-10-25 at 01:00 UTC, New York on 2026-11-01 at 06:00 UTC.
  it('knows the local day around clock changes', () => {
    const day = (instant: string, zone: string) => isoDate(localDay(Date.parse(instant), zone));
    expect(day('2026-10-24T23:30:00Z', 'Europe/London')).toBe('2026-10-25');
    expect(day('2026-10-25T23:30:00Z', 'Europe/London')).toBe('2026-10-25');
    expect(day('2026-11-01T03:59:00Z', 'America/New_York')).toBe('2026-10-31');
    expect(day('2026-11-02T04:30:00Z', 'America/New_York')).toBe('2026-11-01');
    expect(day('2026-06-30T12:00:00Z', 'Pacific/Kiritimati')).toBe('2026-07-01');
  });

  it('knows zones', () => {
    expect(isZone('Europe/London')).toBe(true);
    expect(isZone('Europe/Nowhere')).toBe(false);
  });
});

describe('values from text', () => {
  it.each([
    [attribute.yes, 'Yes', true],
    [attribute.yes, 'FALSE', false],
    [attribute.visits, '3', 3],
    [attribute.visits, '2,5', 2.5],
    [attribute.visits, '-1e2', -100],
    [attribute.renewal, '2026-12-12', '2026-12-12'],
    [attribute.tier, 'midnight', 'midnight'],
    [attribute.tier, 'MIDNIGHT', 'midnight'],
    [attribute.tags, 'moon; family', ['moon', 'family']],
    [attribute.tags, 'family|family', ['family']],
    [attribute.city, '  Larkhaven ', 'Larkhaven'],
    [attribute.city, '=1+1', '=1+1'],
  ] as const)('reads %o from %j', (of, text, value) => {
    expect(parseValue(of, text)).toEqual({ ok: true, value });
  });

  it.each(Object.values(attribute))('takes blank as missing for $type', (of) => {
    expect(parseValue(of, '   ')).toEqual({ ok: true, value: undefined });
  });

  it.each([
    [attribute.yes, 'perhaps', 'neither yes nor no'],
    [attribute.visits, '1.000,5', 'not a number'],
    [attribute.visits, 'NaN', 'not a number'],
    [attribute.visits, '1e999', 'not a number'],
    [attribute.renewal, '12/11/2026', 'not a date'],
    [attribute.tier, 'Dawn', 'not one of the choices'],
    [attribute.tags, 'moon;comet', 'not one of the choices'],
    [attribute.tags, 'moon;sun', 'allows one'],
    [attribute.city, 'a\0b', 'NUL'],
    [attribute.city, 'x'.repeat(2001), 'longer than 2000'],
  ] as const)('refuses %o from %j with its reason', (of, text, reason) => {
    const parsed = parseValue(of, text);
    expect(parsed.ok ? '' : parsed.reason).toContain(reason);
  });

  it.each([
    [attribute.yes, 1],
    [attribute.visits, '3'],
    [attribute.visits, Number.POSITIVE_INFINITY],
    [attribute.renewal, '2026-02-30'],
    [attribute.tier, 'dawn'],
    [attribute.tags, []],
    [attribute.tags, 'moon'],
    [attribute.city, ''],
    [attribute.city, { $ne: 1 }],
  ])('counts a stored value of a wrong type as missing: %o %j', (of, raw) => {
    expect(readValue(of, raw)).toBeUndefined();
  });
});

describe('facts of a viewer', () => {
  const catalogue = new Catalogue(Object.values(attribute), 'Europe/London');
  const instant = Date.parse('2026-11-24T12:00:00Z');
  const value = (id: string, viewer: { contact: Record<string, unknown> | null; signedIn: boolean }) =>
    factsOf(catalogue, { ...viewer, visit: { 'visit-device': 'computer' }, item: null, instant }).at(
      catalogue.indexOf(id) ?? -1,
    );

  it('gives an anonymous viewer nothing, and never a sign-in', () => {
    expect(value('tier', { contact: null, signedIn: true })).toBeUndefined();
    expect(value('signed-in', { contact: null, signedIn: true })).toBe(false);
  });

  it('takes a choice that is gone, or what is none, for no value', () => {
    const tierOf = (tier: unknown) => value('tier', { contact: { tier }, signedIn: true });
    expect(tierOf('dusk')).toBe('dusk');
    for (const tier of ['dawn', '', 1, true, null, ['dusk']]) expect(tierOf(tier)).toBeUndefined();
    expect(choicesOf(attribute.tier).map(({ id }) => id)).toEqual(['dusk', 'midnight']);
    expect(choicesOf(attribute.city)).toEqual([]);
  });

  it('tells recognised from signed in', () => {
    const known = { tier: 'dusk', renewal: '1970-01-11', visits: 'many' };
    expect(value('signed-in', { contact: known, signedIn: false })).toBe(false);
    expect(value('signed-in', { contact: known, signedIn: true })).toBe(true);
    expect(value('tier', { contact: known, signedIn: false })).toBe('dusk');
    expect(value('renewal', { contact: known, signedIn: false })).toBe(10);
    expect(value('visits', { contact: known, signedIn: false })).toBeUndefined();
  });
});

describe('values in words', () => {
  it('prints each type for a reader', () => {
    expect(formatValue(attribute.renewal, '2026-12-12')).toBe('12 December 2026');
    expect(formatValue(attribute.visits, 12345.5)).toBe('12,345.5');
    expect(formatValue(attribute.tier, 'midnight')).toBe('Midnight');
    expect(formatValue(attribute.tags, ['moon', 'sun', 'family'])).toBe('moon, sun and family');
    expect(formatValue(attribute.yes, false)).toBe('no');
    expect(formatValue(attribute.tier, 'gone')).toBe('gone');
  });
});
