import type { ValueKind } from '../../../contract/attributes.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';

export const typeWords: Record<ValueKind, string> = {
  'yes-no': 'yes or no',
  choice: 'single choice',
  set: 'multiple choice',
  number: 'number',
  'whole-number': 'whole number',
  date: 'date',
  'date-time': 'date and time',
  time: 'time of day',
  text: 'text',
  country: 'country',
  address: 'IP address',
  language: 'language',
  path: 'page address',
};

export function typeWord(attribute: Attribute): string {
  return attribute.type === 'choice' && attribute.ordered
    ? 'single choice, in order'
    : typeWords[kindOfValues(attribute)];
}

/** What the values of an attribute are. */
export function kindOfValues(attribute: Attribute): ValueKind {
  return attribute.type === 'number' && attribute.whole ? 'whole-number' : attribute.type;
}
