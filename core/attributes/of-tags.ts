import type { Attribute } from './attribute.ts';

/** Whether an attribute is what contacts are most often put on: a set that is called tags, or lists. */
export function isOfTags({ source, type, id, label }: Attribute): boolean {
  return source === 'contact' && type === 'set' && /\b(tag|list)s?\b/i.test(`${id} ${label}`);
}
