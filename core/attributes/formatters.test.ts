import { expect, it } from 'vitest';
import { dateFormat, listFormat, numberFormat } from './formatters.ts';

it('says what a formatter made for it says, however many were asked for', () => {
  const locales = ['en-GB', 'de', 'fr-CA', 'ar-EG', 'hi', 'ja'];
  const instant = Date.UTC(2026, 11, 24, 23, 30);
  const zones = Intl.supportedValuesOf('timeZone');
  for (let round = 0; round < 2; round++)
    for (const [at, timeZone] of zones.entries()) {
      const locale = locales[at % locales.length] ?? 'en-GB';
      const date = { dateStyle: 'long', timeStyle: 'short', timeZone } as const;
      expect(dateFormat(locale, date).format(instant)).toBe(
        new Intl.DateTimeFormat(locale, date).format(instant),
      );
      const digits = { maximumFractionDigits: at % 5 };
      expect(numberFormat(locale, digits).format(1234.56789)).toBe(
        new Intl.NumberFormat(locale, digits).format(1234.56789),
      );
      expect(listFormat(locale).format(['a', 'b', 'c'])).toBe(
        new Intl.ListFormat(locale).format(['a', 'b', 'c']),
      );
    }
  expect(numberFormat('en-GB')).toBe(numberFormat('en-GB'));
  expect(() => numberFormat('no locale')).toThrow(RangeError);
});
