import type { AttributeSource } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { type Condition, leavesOf } from './condition.ts';

/**
 * Where the values come from that decide a condition, through the audiences it names. Only what a contact decides can be
 * counted among contacts.
 */
export function decidedBy(
  condition: Condition,
  conditionOf: (audience: string) => Condition | undefined,
  catalogue: Catalogue,
): ReadonlySet<AttributeSource> {
  const found = new Set<AttributeSource>();
  const seen = new Set<string>();
  const walk = (part: Condition): void => {
    for (const leaf of leavesOf(part)) {
      if (leaf.kind === 'test') {
        const source = catalogue.get(leaf.attribute)?.source;
        if (source) found.add(source);
        continue;
      }
      if (seen.has(leaf.audience)) continue;
      seen.add(leaf.audience);
      const inner = conditionOf(leaf.audience);
      if (inner) walk(inner);
    }
  };
  walk(condition);
  return found;
}
