import { fn } from 'sequelize';
import type { SetAside } from '../../contract/attributes.ts';
import type { Attribute } from '../../core/attributes/attribute.ts';
import { inTransaction } from '../store/transaction.ts';
import { ContactRow, SetAsideRow } from './rows.ts';

const valuesShown = 100;

/** How many values of each attribute were taken out because they did not fit, for attributes that have some. */
export async function setAsideCounts(): Promise<{ [attribute: string]: number }> {
  const rows = await SetAsideRow.findAll({
    attributes: ['attribute', [fn('COUNT', '*'), 'id']],
    group: 'attribute',
    raw: true,
  });
  return Object.fromEntries(rows.map(({ attribute, id }) => [attribute, Number(id)]));
}

/** What some items are called, and where they belong. */
export type ItemsNamed = (
  ids: readonly string[],
) => Promise<{ readonly id: string; readonly title: string; readonly collectionId: string }[]>;

/** The values of an attribute that were taken out because they did not fit. */
export async function setAside(attribute: Attribute, itemsNamed: ItemsNamed): Promise<SetAside> {
  const { rows, count } = await SetAsideRow.findAndCountAll({
    where: { attribute: attribute.id },
    order: [['id', 'DESC']],
    limit: valuesShown,
    raw: true,
  });
  const contacts = await ContactRow.findAll({
    attributes: ['id', 'name'],
    where: { id: rows.flatMap(({ contactId }) => contactId ?? []) },
    raw: true,
  });
  const items = await itemsNamed(rows.flatMap(({ itemId }) => itemId ?? []));
  return {
    count,
    values: rows.flatMap(({ contactId, itemId, value }): SetAside['values'] => {
      const contact = contacts.find(({ id }) => id === contactId);
      const item = items.find(({ id }) => id === itemId);
      const text = textOf(attribute, value);
      if (contact) return [{ of: { what: 'contact', id: contact.id, name: contact.name }, value: text }];
      if (!item) return [];
      return [
        { of: { what: 'item', id: item.id, collection: item.collectionId, name: item.title }, value: text },
      ];
    }),
  };
}

/** Forgets them, once somebody has looked after them. The history of each contact keeps what it had. */
export async function forgetSetAside(attribute: string): Promise<void> {
  await inTransaction((transaction) => SetAsideRow.destroy({ where: { attribute }, transaction }));
}

/** A value that its attribute does not allow, in words. */
function textOf(attribute: Attribute, value: unknown): string {
  const parts = Array.isArray(value) ? value : [value];
  const labels = new Map('choices' in attribute ? attribute.choices.map(({ id, label }) => [id, label]) : []);
  return parts.map((part) => labels.get(String(part)) ?? String(part)).join(', ');
}
