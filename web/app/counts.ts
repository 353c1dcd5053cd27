import useSWR from 'swr';
import { type Counts, countsSchema } from '../../contract/audiences.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import { decidedBy } from '../../core/conditions/decided-by.ts';
import type { Channel } from '../../core/documents/document.ts';
import { count } from '../parts/person.tsx';
import { call } from './api.ts';
import { useAudiences, useCatalogue } from './data.ts';

/** How many contacts are in a condition, or what decides it that is not about contacts. */
export type Counted =
  | {
      readonly by: 'contacts';
      readonly count: number;
      readonly total: number;
      /** Whether the time decides too, so that the figure holds for now. */
      readonly isNow: boolean;
    }
  | { readonly by: 'visit' | 'item' };

/** Counts contacts in some conditions, as they stand now; undefined until it is known. */
export function useCounted(
  conditions: readonly Condition[],
  channel: Channel = 'page',
): (condition: Condition) => Counted | undefined {
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
    if (!data || found === undefined || !catalogue) return undefined;
    const sources = decidedBy(condition, (id) => byId.get(id), catalogue);
    if (sources.has('item')) return { by: 'item' };
    if (sources.has('visit')) return { by: 'visit' };
    return { by: 'contacts', count: found, total: data.total, isNow: sources.has('moment') };
  };
}

/** Says how many contacts are in a condition: "412 of 2,400 contacts", "decided per visit", empty until it is known. */
export type SayCount = (condition: Condition) => string;

/** Counts contacts, in words. What contacts don't decide is said instead of counted as nobody. */
export function useCounts(conditions: readonly Condition[], channel: Channel = 'page'): SayCount {
  const counted = useCounted(conditions, channel);
  return (condition) => {
    const found = counted(condition);
    if (!found) return '';
    return found.by === 'contacts'
      ? `${count(found.count)} of ${count(found.total)} contacts${found.isNow ? ' right now' : ''}`
      : `decided per ${found.by}`;
  };
}
