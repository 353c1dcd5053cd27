import { type Attribute, choiceLabel } from '../attributes/attribute.ts';
import { readValue } from '../attributes/parse.ts';

/** A stored value as the import reads it back; blank where it is missing. */
export function valueText(attribute: Attribute, raw: unknown): string {
  const value = readValue(attribute, raw);
  if (value === undefined) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map((one) => choiceLabel(attribute, one)).join('; ');
  return attribute.type === 'choice' ? choiceLabel(attribute, String(value)) : String(value);
}
