import { useMemo } from 'react';
import useSWR from 'swr';
import { type Counts, countsSchema } from '../../contract/audiences.ts';
import { any, type Condition, inAudience } from '../../core/conditions/condition.ts';
import { decidedBy } from '../../core/conditions/decided-by.ts';
import type { Channel, Slot } from '../../core/documents/document.ts';
import { call } from './api.ts';
import { count } from './count.ts';
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

/** What other than contacts decides a condition, so that counting contacts says nothing; undefined where they decide it. */
export function useDecidedPer(): (condition: Condition) => 'visit' | 'item' | undefined {
  const catalogue = useCatalogue();
  const { data: audiences } = useAudiences();
  return useMemo(() => {
    const byId = new Map(audiences?.map((audience) => [audience.id, audience.condition]));
    return (condition) => {
      if (!catalogue) return undefined;
      const sources = decidedBy(condition, (id) => byId.get(id), catalogue);
      return sources.has('item') ? 'item' : sources.has('visit') ? 'visit' : undefined;
    };
  }, [catalogue, audiences]);
}

/** How many contacts are in an audience, in words: "412", "per visit". */
export function useSayPeople(): (audience: { condition: Condition; count: number | null }) => string {
  const decidedPer = useDecidedPer();
  return ({ condition, count: people }) => {
    const per = decidedPer(condition);
    return per ? `per ${per}` : people === null ? '…' : count(people);
  };
}

/** How many contacts get a choice of a slot, in words, for places where there is little room: "412", "per visit". */
export function useSayOutcome(): (slot: Slot, choice: number, people: number | undefined) => string {
  const decidedPer = useDecidedPer();
  return (slot, choice, people) => {
    // Who gets a variant is also decided by those above it, and who is everyone else by all.
    const asked = choice < 0 ? slot.variants : slot.variants.slice(0, choice + 1);
    const per = decidedPer(any(...asked.map(({ audience }) => inAudience(audience))));
    return per ? `per ${per}` : people === undefined ? '' : count(people);
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
