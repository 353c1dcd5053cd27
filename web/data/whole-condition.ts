import { useMemo, useState } from 'react';
import type { Condition } from '../../core/conditions/condition.ts';
import { validate } from '../../core/conditions/validate.ts';
import { useAudiences, useCatalogue } from './data.ts';

/** Tells conditions that can be asked from those that are only half written. */
export function useIsWhole(): (condition: Condition) => boolean {
  const catalogue = useCatalogue();
  const { data: audiences } = useAudiences();
  return useMemo(() => {
    const known = new Set(audiences?.map(({ id }) => id));
    return (condition) =>
      catalogue !== undefined &&
      validate(condition, { catalogue, hasAudience: (id) => known.has(id) }).length === 0;
  }, [catalogue, audiences]);
}

/** A condition as it was when it was whole last: what is half written is not asked for. */
export function useWholeCondition(condition: Condition): Condition | undefined {
  const isWhole = useIsWhole()(condition);
  const [last, setLast] = useState<Condition>();
  if (isWhole && last !== condition) setLast(condition);
  return isWhole ? condition : last;
}
