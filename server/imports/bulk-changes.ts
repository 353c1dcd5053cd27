import type { BulkRequest, Import } from '../../contract/imports.ts';
import { type Attribute, choicesOf } from '../../core/attributes/attribute.ts';
import { formatValue } from '../../core/attributes/format.ts';
import { readValue } from '../../core/attributes/parse.ts';
import { type BulkChange, problemOfChange } from '../../core/exchange/bulk-change.ts';
import type { Contacts } from '../people/contacts.ts';
import { Refusal } from '../refusal.ts';
import type { Drafts } from '../snapshots/drafts.ts';
import type { Imports } from './imports.ts';

/** Changing an attribute of many contacts at once, by name or as a list finds them. */
export class BulkChanges {
  constructor(
    private readonly drafts: Drafts,
    private readonly contacts: Contacts,
    private readonly imports: Imports,
  ) {}

  /** Says what a change would do; it is done as an import that was tried is. */
  async try({ change, ids, query }: BulkRequest, accountName: string): Promise<Import> {
    const { catalogue } = await this.drafts.decider();
    const attribute = catalogue.get(change.attribute);
    const problem = attribute ? problemOfChange(attribute, change) : 'is no attribute any more';
    if (!attribute || problem !== undefined)
      throw new Refusal(422, `“${attribute?.label ?? change.attribute}” ${problem}.`, {
        fields: [{ path: 'change', message: problem ?? '' }],
      });
    const wanted = ids ?? (query ? await this.contacts.idsOf(query) : []);
    if (wanted.length === 0)
      throw new Refusal(422, 'There is nobody to change.', {
        fields: [{ path: 'ids', message: 'is empty' }],
      });
    const name = nameOf(change, attribute).slice(0, 255);
    return this.imports.change(change, wanted, name, accountName);
  }
}

/** What a change is called. */
function nameOf(change: BulkChange, attribute: Attribute): string {
  const { label } = attribute;
  if (change.how === 'clear') return `${label} cleared`;
  if (change.how === 'set') {
    const value = readValue(attribute, change.value);
    return `${label} set to ${value === undefined ? '' : formatValue(attribute, value)}`;
  }
  const members = choicesOf(attribute).filter(({ id }) => change.members.includes(id));
  const list = new Intl.ListFormat('en-GB').format(members.map((choice) => choice.label));
  return change.how === 'add' ? `${list} added to ${label}` : `${list} removed from ${label}`;
}
