import type { Catalogue } from '../attributes/catalogue.ts';
import type { Facts } from '../attributes/viewer.ts';
import type { Condition } from './condition.ts';
import { compile } from './evaluate.ts';

/** Evaluates a condition when some attributes are unknown: whether it can be true, and whether it can be false. */
export interface Possible {
  readonly holds: boolean;
  readonly fails: boolean;
}

const either: Possible = { holds: true, fails: true };

/**
 * What a condition can come out as where the values of some attributes are not known (Kleene's three-valued logic). Two tests
 * of one unknown value count as independent, so that too much may be called possible, and never too little.
 *
 * @param conditionOf the condition of an audience; undefined where it contains nobody. Audiences must not be circular
 */
export function possible(
  condition: Condition,
  facts: Facts,
  {
    catalogue,
    conditionOf,
    isUnknown,
  }: {
    readonly catalogue: Catalogue;
    readonly conditionOf: (audience: string) => Condition | undefined;
    readonly isUnknown: (attribute: string) => boolean;
  },
): Possible {
  const known = new Map<string, Possible>();
  const walk = (part: Condition): Possible => {
    switch (part.kind) {
      case 'test': {
        if (isUnknown(part.attribute)) return either;
        const holds = compile(part, catalogue)(facts);
        return { holds, fails: !holds };
      }
      case 'audience': {
        const before = known.get(part.audience);
        if (before) return before;
        const inner = conditionOf(part.audience);
        const found = inner ? walk(inner) : { holds: false, fails: true };
        known.set(part.audience, found);
        return found;
      }
      case 'not': {
        const { holds, fails } = walk(part.of);
        return { holds: fails, fails: holds };
      }
      case 'all': {
        const parts = part.of.map(walk);
        return { holds: parts.every(({ holds }) => holds), fails: parts.some(({ fails }) => fails) };
      }
      case 'any': {
        const parts = part.of.map(walk);
        return { holds: parts.some(({ holds }) => holds), fails: parts.every(({ fails }) => fails) };
      }
    }
  };
  return walk(condition);
}
