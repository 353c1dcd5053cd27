import type { Attribute } from '../core/attributes/attribute.ts';
import { localDay } from '../core/attributes/calendar.ts';
import { Catalogue } from '../core/attributes/catalogue.ts';

/** A few attributes that what is proved is tried on, and the moment it is tried at. */
export const instant = Date.parse('2026-11-24T12:00:00Z');
export const today = localDay(instant, 'UTC');
export const contact = { source: 'contact', description: '' } as const;
export const choices = (...ids: string[]) => ids.map((id) => ({ id, label: id }));
export const attributes: Attribute[] = [
  {
    ...contact,
    id: 'tier',
    label: 'tier',
    type: 'choice',
    ordered: true,
    choices: choices('dusk', 'twilight', 'midnight'),
  },
  { ...contact, id: 'vip', label: 'vip', type: 'yes-no' },
  {
    ...contact,
    id: 'tags',
    label: 'tags',
    type: 'set',
    choices: choices('moon', 'sun', 'family', 'other'),
    exclusiveGroups: [{ name: 'outcome', members: ['moon', 'sun'] }],
  },
  { ...contact, id: 'orders', label: 'orders', type: 'number', whole: true },
  { ...contact, id: 'gift', label: 'gift', type: 'number' },
  { ...contact, id: 'renewal', label: 'renewal', type: 'date' },
  { ...contact, id: 'city', label: 'city', type: 'text' },
];
export const catalogue = new Catalogue(attributes, 'UTC');
export const attribute = (id: string): Attribute => {
  const found = catalogue.get(id);
  if (!found) throw new Error(id);
  return found;
};
