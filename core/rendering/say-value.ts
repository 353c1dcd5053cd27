import type { Attribute, Value } from '../attributes/attribute.ts';
import { readInstant } from '../attributes/calendar.ts';
import { formatValue } from '../attributes/format.ts';
import { dateFormat, numberFormat } from '../attributes/formatters.ts';
import type { MergeLook } from '../documents/text.ts';

const dateLooks: { readonly [look in MergeLook]?: Intl.DateTimeFormatOptions } = {
  'short-date': { dateStyle: 'short' },
  weekday: { weekday: 'long' },
  'day-and-month': { day: 'numeric', month: 'long' },
};
const decimals: { readonly [look in MergeLook]?: number } = { whole: 0, 'two-decimals': 2 };

/** Which ways of writing a value there are for a type of attribute. */
export function looksFor(attribute: Attribute): MergeLook[] {
  if (attribute.type === 'number') return ['whole', 'two-decimals'];
  if (attribute.type === 'date' || attribute.type === 'date-time')
    return ['short-date', 'weekday', 'day-and-month'];
  return ['upper', 'lower', 'capital'];
}

/**
 * A value in the words of a language, in one of the ways it can be written; a way that does not fit its type is as if
 * none were asked for.
 *
 * @param locale a BCP 47 language tag
 * @param zone the IANA time zone that instants are shown in
 */
export function sayValue(
  attribute: Attribute,
  value: Value,
  look: MergeLook | undefined,
  locale: string,
  zone: string,
): string {
  if (look === undefined || !looksFor(attribute).includes(look))
    return formatValue(attribute, value, locale, zone);
  if (typeof value === 'number') {
    const digits = decimals[look] ?? 0;
    return numberFormat(locale, {
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    }).format(value);
  }
  const form = dateLooks[look];
  if (form && typeof value === 'string') {
    const isDay = attribute.type === 'date';
    const instant = isDay ? Date.parse(`${value}T00:00:00Z`) : (readInstant(value) ?? Number.NaN);
    if (Number.isNaN(instant)) return value;
    return dateFormat(locale, { ...form, timeZone: isDay ? 'UTC' : zone }).format(instant);
  }
  const said = formatValue(attribute, value, locale, zone);
  if (look === 'upper') return said.toLocaleUpperCase(locale);
  if (look === 'lower') return said.toLocaleLowerCase(locale);
  const [first = '', ...rest] = said;
  return first.toLocaleUpperCase(locale) + rest.join('');
}
