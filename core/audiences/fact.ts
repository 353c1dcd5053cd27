import { z } from 'zod';
import { attributesIn, type Condition, conditionSchema } from '../conditions/condition.ts';

/**
 * Something that an organisation states to hold for every contact: whoever meets `who` meets `also`. The analysis
 * relies on it for what there can be; nothing is enforced by it, and contacts that break it are listed.
 */
export const statedFactSchema = z.object({
  id: z.string().min(1).max(64),
  who: conditionSchema,
  also: conditionSchema,
});
export type StatedFact = z.infer<typeof statedFactSchema>;

/** True for whoever keeps to a fact. Says nothing about anonymous viewers, who are no contacts. */
export function keeping({ who, also }: Pick<StatedFact, 'who' | 'also'>): Condition {
  return { kind: 'any', of: [{ kind: 'not', of: who }, also] };
}

/** True for whoever breaks a fact. */
export function breaking({ who, also }: Pick<StatedFact, 'who' | 'also'>): Condition {
  return { kind: 'all', of: [who, { kind: 'not', of: also }] };
}

/** The facts that bear on some attributes, directly or through other facts. */
export function bearingOn(facts: readonly StatedFact[], attributes: ReadonlySet<string>): StatedFact[] {
  const reached = new Set(attributes);
  const found = new Set<StatedFact>();
  for (let spread = true; spread; ) {
    spread = false;
    for (const fact of facts) {
      const own = [...attributesIn(fact.who), ...attributesIn(fact.also)];
      if (found.has(fact) || !own.some((id) => reached.has(id))) continue;
      found.add(fact);
      for (const id of own) reached.add(id);
      spread = true;
    }
  }
  return facts.filter((fact) => found.has(fact));
}
