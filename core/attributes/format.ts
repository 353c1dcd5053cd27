import { type Attribute, choiceLabel, type Value } from './attribute.ts';
import { readInstant } from './calendar.ts';
import { countryName } from './countries.ts';
import { dateFormat, listFormat, numberFormat } from './formatters.ts';

/**
 * A value as a reader expects it: dates as "12 December 2026", instants as "12 December 2026 at 18:00", numbers
 * grouped, choices by their label, countries by their name, sets as "a, b and c".
 *
 * @param locale a BCP 47 language tag
 * @param zone the IANA time zone that instants are shown in
 */
export function formatValue(attribute: Attribute, value: Value, locale = 'en-GB', zone = 'UTC'): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number') return numberFormat(locale).format(value);
  if (Array.isArray(value)) {
    return listFormat(locale).format(value.map((id) => choiceLabel(attribute, id)));
  }
  if (attribute.type === 'choice') return choiceLabel(attribute, value);
  if (attribute.type === 'country') return countryName(value, locale);
  if (attribute.type === 'date-time') {
    const instant = readInstant(value);
    if (instant === undefined) return value;
    return dateFormat(locale, { dateStyle: 'long', timeStyle: 'short', timeZone: zone }).format(instant);
  }
  if (attribute.type === 'date') {
    const date = new Date(`${value}T00:00:00Z`);
    if (Number.isNaN(date.getTime())) return value;
    return dateFormat(locale, { dateStyle: 'long', timeZone: 'UTC' }).format(date);
  }
  return value;
}
