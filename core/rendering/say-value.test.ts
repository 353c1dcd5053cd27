import { expect, it } from 'vitest';
import type { Attribute, Value } from '../attributes/attribute.ts';
import type { MergeLook } from '../documents/text.ts';
import { sayValue } from './say-value.ts';

const base = { id: 'a', source: 'contact', label: 'a', description: '' } as const;
const text: Attribute = { ...base, type: 'text' };
const number: Attribute = { ...base, type: 'number' };
const date: Attribute = { ...base, type: 'date' };
const moment: Attribute = { ...base, type: 'date-time' };

// Words as Unicode CLDR has them for each language, by Intl.
it.each<[Attribute, Value, MergeLook | undefined, string, string]>([
  [text, 'ines', 'capital', 'en-GB', 'Ines'],
  [text, 'ines marlow', 'upper', 'en-GB', 'INES MARLOW'],
  [text, 'istanbul', 'upper', 'tr', 'İSTANBUL'],
  [text, 'élan', 'capital', 'fr-FR', 'Élan'],
  [text, '🌙 moon', 'capital', 'en-GB', '🌙 moon'],
  [number, 9.5, 'two-decimals', 'en-GB', '9.50'],
  [number, 1234.5, 'two-decimals', 'de-DE', '1.234,50'],
  [number, 1234.5, 'whole', 'en-GB', '1,235'],
  [number, 1234.5, undefined, 'de-DE', '1.234,5'],
  [date, '2026-12-04', 'weekday', 'en-GB', 'Friday'],
  [date, '2026-12-04', 'weekday', 'de-DE', 'Freitag'],
  [date, '2026-12-04', 'day-and-month', 'en-GB', '4 December'],
  [date, '2026-12-04', 'short-date', 'en-GB', '04/12/2026'],
  [date, '2026-12-04', undefined, 'fr-FR', '4 décembre 2026'],
  [moment, '2026-12-04T23:30:00.000Z', 'weekday', 'en-GB', 'Saturday'],
  [text, 'Ines', 'two-decimals', 'en-GB', 'Ines'],
  [number, 3, 'upper', 'en-GB', '3'],
])('%# %j as %s in %s', (attribute, value, look, locale, said) => {
  expect(sayValue(attribute, value, look, locale, 'Europe/Berlin')).toBe(said);
});
