import useSWR from 'swr';
import { type Counts, countsSchema } from '../../contract/audiences.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { decidedBy } from '../../core/conditions/decided-by.ts';
import type { Channel } from '../../core/documents/document.ts';
import { count } from '../parts/person.tsx';
import { call } from './api.ts';
import { useAudiences, useCatalogue } from './data.ts';

/** Says how many contacts are in a condition: "412 of 2,400 contacts", "decided per visit", empty until it is known. */
export type SayCount = (condition: Condition) => string;

/** Counts contacts in some conditions, as they stand now. What contacts don't decide is said instead of counted as nobody. */
export function useCounts(conditions: readonly Condition[], channel: Channel = 'page'): SayCount {
  const catalogue = useCatalogue();
  const { data: audiences } = useAudiences();
  const { data } = useSWR<Counts>(
    conditions.length > 0 ? ['/audiences/counts', channel, conditions] : null,
    () => call('POST', '/audiences/counts', countsSchema, { conditions, channel }),
    { keepPreviousData: true, revalidateOnFocus: false },
  );
  const counts = new Map(conditions.map((condition, at) => [condition, data?.counts[at]]));
  const byId = new Map(audiences?.map((audience) => [audience.id, audience.condition]));
  return (condition) => {
    const found = counts.get(condition);
    if (!data || found === undefined || !catalogue) return '';
    const sources = decidedBy(condition, (id) => byId.get(id), catalogue);
    if (sources.has('item')) return 'decided per item';
    if (sources.has('visit')) return 'decided per visit';
    return `${count(found)} of ${count(data.total)} contacts`;
  };
}
