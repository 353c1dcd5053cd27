import { z } from 'zod';
import { type Attribute, attributeIdSchema, type Value } from '../attributes/attribute.ts';
import { exclusiveClash, unstorable } from '../attributes/parse.ts';
import { withChoices } from '../attributes/set-choice.ts';
import { type Fields, type Stored, sameValue } from './merge.ts';

/** What is done to one attribute of many contacts at once. Members are choices of a set, by their ids. */
export const bulkChangeSchema = z.discriminatedUnion('how', [
  z.object({ how: z.literal('set'), attribute: attributeIdSchema, value: z.unknown() }),
  z.object({ how: z.literal('clear'), attribute: attributeIdSchema }),
  z.object({
    how: z.enum(['add', 'take']),
    attribute: attributeIdSchema,
    members: z.array(z.string().max(64)).min(1, 'Choose at least one').max(500),
  }),
]);
export type BulkChange = z.infer<typeof bulkChangeSchema>;

/** Why a change can't be made to an attribute; undefined where it can. */
export function problemOfChange(attribute: Attribute, change: BulkChange): string | undefined {
  if (attribute.source !== 'contact') return 'is no attribute of contacts';
  if (attribute.id === 'email') return 'is who a contact is, so that it can’t be the same for several';
  if (change.how === 'clear') return undefined;
  if (change.how === 'set')
    return change.value === null || change.value === undefined
      ? 'needs a value'
      : unstorable(attribute, change.value);
  if (attribute.type !== 'set') return 'holds one value, to which none can be added';
  const known = new Set(attribute.choices.map(({ id }) => id));
  const unknown = change.members.find((member) => !known.has(member));
  if (unknown !== undefined) return `has no choice “${unknown}”`;
  return change.how === 'add' ? exclusiveClash(attribute, change.members) : undefined;
}

/** A contact as a change makes it, and what changes of it; undefined where nothing does. */
export function changedBy(
  stored: Stored,
  attribute: Attribute,
  change: BulkChange,
): { person: Omit<Stored, 'id'>; fields: Fields } | undefined {
  const before = stored.values[attribute.id];
  const after = valueAfter(before, attribute, change);
  if (sameValue(before, after)) return undefined;
  const { [attribute.id]: _, ...others } = stored.values;
  const values = after === null ? others : { ...others, [attribute.id]: after };
  return {
    person: { email: stored.email, externalId: stored.externalId, values },
    fields: { [attribute.id]: [before ?? null, after] },
  };
}

function valueAfter(before: unknown, attribute: Attribute, change: BulkChange): Value | null {
  if (change.how === 'set') return change.value as Value;
  if (change.how === 'clear') return null;
  const held = Array.isArray(before) ? before.map(String) : [];
  const after =
    change.how === 'add'
      ? withChoices(attribute, held, change.members)
      : held.filter((one) => !change.members.includes(one));
  return after.length > 0 ? after : null;
}
