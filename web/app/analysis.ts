import { useMemo } from 'react';
import useSWR from 'swr';
import { listedFactsSchema } from '../../contract/facts.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import type { ConditionAnalysis, DocumentAnalysis } from '../../core/analysis/analyse.ts';
import type { Relation } from '../../core/analysis/relation.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { Document } from '../../core/documents/document.ts';
import type { Question } from './analysis.worker.ts';
import { useApi } from './api.ts';
import { useAudiences } from './data.ts';

let worker: Worker | undefined;
let asked = 0;
const waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();

/** Asks the analysis, which runs beside the interface so that nothing waits for it. */
function ask<Answer>(question: Question): Promise<Answer> {
  if (!worker) {
    worker = new Worker(new URL('./analysis.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<{ id: number; answer?: never; failure?: string }>) => {
      const asker = waiting.get(data.id);
      waiting.delete(data.id);
      if (data.answer !== undefined) asker?.resolve(data.answer);
      else asker?.reject(new Error(data.failure ?? 'the analysis gave no answer'));
    };
  }
  const id = ++asked;
  return new Promise<Answer>((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker?.postMessage({ id, question });
  });
}

function useDrafts(): Pick<Snapshot, 'settings' | 'attributes' | 'audiences' | 'facts'> | undefined {
  const { data: attributes } = useApi('/attributes', attributesSchema);
  const { data: settings } = useApi('/settings', settingsSchema);
  const { data: audiences } = useAudiences();
  const { data: listed } = useApi('/facts', listedFactsSchema);
  return useMemo(() => {
    if (!attributes || !settings || !audiences || !listed) return undefined;
    const facts = listed.map(({ id, who, also }) => ({ id, who, also }));
    const plain = audiences.map(({ id, name, description, condition }) => ({
      id,
      name,
      description,
      condition,
    }));
    return { attributes, settings, audiences: plain, facts };
  }, [attributes, settings, audiences, listed]);
}

const staying = { keepPreviousData: true, revalidateOnFocus: false, revalidateIfStale: false } as const;

/** Faces and findings of a document as it stands; the previous ones until the new ones are there. */
export function useDocumentAnalysis(
  document: Document | undefined,
  instant: number,
): DocumentAnalysis | undefined {
  const drafts = useDrafts();
  return useSWR<DocumentAnalysis, Error>(
    drafts && document ? ['analysis', drafts, document, instant] : null,
    () => {
      if (!drafts || !document) throw new Error('asked too early');
      return ask<DocumentAnalysis>({ kind: 'document', of: [drafts, document, instant] });
    },
    staying,
  ).data;
}

/** Findings about a condition as it stands. */
export function useConditionAnalysis(
  condition: Condition,
  editing: string | null,
  instant: number,
): ConditionAnalysis | undefined {
  const drafts = useDrafts();
  return useSWR<ConditionAnalysis, Error>(
    drafts ? ['analysis', drafts, condition, editing, instant] : null,
    () => {
      if (!drafts) throw new Error('asked too early');
      return ask<ConditionAnalysis>({ kind: 'condition', of: [drafts, condition, editing, instant] });
    },
    staying,
  ).data;
}

/** How two audiences lie to each other, for every possible person; null where that can't be proved. */
export function useRelation(
  pair: readonly [string, string] | undefined,
  instant: number,
): Relation | null | undefined {
  const drafts = useDrafts();
  return useSWR<Relation | null, Error>(
    drafts && pair ? ['relation', drafts, pair, instant] : null,
    () => {
      if (!drafts || !pair) throw new Error('asked too early');
      return ask<Relation | null>({ kind: 'relation', of: [drafts, ...pair, instant] });
    },
    staying,
  ).data;
}

/** What is found about each audience by itself, by its id. */
export function useAudienceFindings(instant: number): ReadonlyMap<string, ConditionAnalysis> | undefined {
  const drafts = useDrafts();
  return useSWR<ReadonlyMap<string, ConditionAnalysis>, Error>(
    drafts ? ['findings', drafts, instant] : null,
    async () => {
      if (!drafts) throw new Error('asked too early');
      const found = await Promise.all(
        drafts.audiences.map(({ id, condition }) =>
          ask<ConditionAnalysis>({ kind: 'condition', of: [drafts, condition, id, instant] }),
        ),
      );
      return new Map(found.map((analysis, index) => [drafts.audiences[index]?.id ?? '', analysis]));
    },
    staying,
  ).data;
}
