import type { Catalogue } from '../attributes/catalogue.ts';
import { formatValue } from '../attributes/format.ts';
import { type Facts, valueOfFact } from '../attributes/viewer.ts';
import type { Condition } from './condition.ts';
import { compile } from './evaluate.ts';
import { sayTest } from './words.ts';

/** Why a condition holds or not: each part with its outcome, each test with the value it met. */
export type Explanation =
  | { kind: 'test'; words: string; attribute: string; met: string | undefined; holds: boolean }
  /** `because` is undefined where the same audience was explained before. */
  | { kind: 'audience'; audience: string; holds: boolean; because: Explanation | undefined }
  | { kind: 'all' | 'any' | 'not'; holds: boolean; parts: Explanation[] };

/**
 * Explains a condition for one viewer. `met` is the viewer's value in words, undefined where it is missing. An audience that
 * is named several times is explained once, so that the explanation grows with the conditions only.
 *
 * @param conditionOf the condition of an audience by id; audiences must not be circular and must exist
 */
export function explain(
  condition: Condition,
  facts: Facts,
  catalogue: Catalogue,
  conditionOf: (audience: string) => Condition | undefined,
): Explanation {
  const holdsFor = new Map<string, boolean>();
  const walk = (part: Condition): Explanation => {
    switch (part.kind) {
      case 'test': {
        const holds = compile(part, catalogue)(facts);
        return {
          kind: 'test',
          words: sayTest(part, catalogue),
          attribute: part.attribute,
          met: metValue(part.attribute, facts, catalogue),
          holds,
        };
      }
      case 'audience': {
        const condition = conditionOf(part.audience);
        if (!condition) throw new Error(`no audience “${part.audience}”`);
        const known = holdsFor.get(part.audience);
        if (known !== undefined)
          return { kind: 'audience', audience: part.audience, holds: known, because: undefined };
        const because = walk(condition);
        holdsFor.set(part.audience, because.holds);
        return { kind: 'audience', audience: part.audience, holds: because.holds, because };
      }
      case 'not': {
        const inner = walk(part.of);
        return { kind: 'not', holds: !inner.holds, parts: [inner] };
      }
      case 'all': {
        const parts = part.of.map(walk);
        return { kind: 'all', holds: parts.every((child) => child.holds), parts };
      }
      case 'any': {
        const parts = part.of.map(walk);
        return { kind: 'any', holds: parts.some((child) => child.holds), parts };
      }
    }
  };
  return walk(condition);
}

/** The value a viewer brings to an attribute, in words; undefined where it is missing. */
export function metValue(attributeId: string, facts: Facts, catalogue: Catalogue): string | undefined {
  const attribute = catalogue.get(attributeId);
  const place = catalogue.indexOf(attributeId);
  const fact = place === undefined ? undefined : facts.at(place);
  if (!attribute || fact === undefined) return undefined;
  return formatValue(attribute, valueOfFact(attribute, fact), 'en-GB', catalogue.zone);
}
