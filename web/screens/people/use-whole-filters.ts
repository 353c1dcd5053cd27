import { useEffect, useState } from 'react';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';

/** Those of some filters that are written out; one that is half written filters nothing yet. */
export function useWholeFilters(filters: readonly Test[], catalogue: Catalogue | undefined): readonly Test[] {
  const [whole, setWhole] = useState<readonly Test[]>([]);
  useEffect(() => {
    if (filters.length === 0 || !catalogue) return setWhole([]);
    let current = true;
    // What tells them apart is loaded with the first filter.
    void import('../../../core/conditions/validate.ts').then(({ validate }) => {
      const surroundings = { catalogue, hasAudience: () => false };
      if (current) setWhole(filters.filter((filter) => validate(filter, surroundings).length === 0));
    });
    return () => {
      current = false;
    };
  }, [filters, catalogue]);
  return whole;
}
