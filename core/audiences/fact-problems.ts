import type { Catalogue } from '../attributes/catalogue.ts';
import { attributesIn, audiencesIn } from '../conditions/condition.ts';
import { type Problem, validate } from '../conditions/validate.ts';
import type { StatedFact } from './fact.ts';

/** What keeps a fact from being relied on; empty where nothing does. */
export function factProblems(fact: Pick<StatedFact, 'who' | 'also'>, catalogue: Catalogue): Problem[] {
  return (['who', 'also'] as const).flatMap((side) => {
    const condition = fact[side];
    const problems = validate(condition, { catalogue, hasAudience: () => true });
    if (audiencesIn(condition).size > 0)
      problems.push({ path: '', message: 'names an audience; a fact is about what people have' });
    for (const id of attributesIn(condition)) {
      const attribute = catalogue.get(id);
      if (attribute && attribute.source !== 'contact')
        problems.push({ path: '', message: `asks for ${attribute.label}, which no contact has by itself` });
    }
    return problems.map(({ path, message }) => ({ path: path === '' ? side : `${side}.${path}`, message }));
  });
}

/** The facts that can be relied on: those without a problem. */
export function soundFacts(facts: readonly StatedFact[] | undefined, catalogue: Catalogue): StatedFact[] {
  return (facts ?? []).filter((fact) => factProblems(fact, catalogue).length === 0);
}
