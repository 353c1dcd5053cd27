import type { SetAside } from '../../contract/attributes.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { contactNames } from './contact-rows.ts';
import { valuesSetAside } from './rows.ts';

const valuesShown = 100;

/** What some items are called, and where they belong. */
export type ItemsNamed = (
  ids: readonly string[],
) => Promise<{ readonly id: string; readonly title: string; readonly collectionId: string }[]>;

/** The values of an attribute that were taken out because they did not fit. */
export async function setAside(attribute: Attribute, itemsNamed: ItemsNamed): Promise<SetAside> {
  const { rows, count } = await valuesSetAside(attribute.id, valuesShown);
  const contacts = await contactNames(rows.flatMap(({ contactId }) => contactId ?? []));
  const items = await itemsNamed(rows.flatMap(({ itemId }) => itemId ?? []));
  return {
    count,
    values: rows.flatMap(({ contactId, itemId, value }): SetAside['values'] => {
      const contact = contactId === null ? undefined : contacts.get(contactId);
      const item = items.find(({ id }) => id === itemId);
      const text = textOf(attribute, value);
      if (contactId !== null && contact !== undefined)
        return [{ of: { what: 'contact', id: contactId, name: contact }, value: text }];
      if (!item) return [];
      return [
        { of: { what: 'item', id: item.id, collection: item.collectionId, name: item.title }, value: text },
      ];
    }),
  };
}

/** A value that its attribute does not allow, in words. */
function textOf(attribute: Attribute, value: unknown): string {
  const parts = Array.isArray(value) ? value : [value];
  const labels = new Map('choices' in attribute ? attribute.choices.map(({ id, label }) => [id, label]) : []);
  return parts.map((part) => labels.get(String(part)) ?? String(part)).join(', ');
}
