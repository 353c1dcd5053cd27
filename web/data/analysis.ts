import { useMemo } from 'react';
import useSWR from 'swr';
import { listedFactsSchema } from '../../contract/facts.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import type { ConditionAnalysis, DocumentAnalysis, Drafts } from '../../core/analysis/analyse.ts';
import { type Limit, notProvedWithin } from '../../core/analysis/diagrams/work.ts';
import type { Relation } from '../../core/analysis/relation.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import type { Document } from '../../core/documents/document.ts';
import type { Asked, Question } from './analysis.worker.ts';
import { useApi } from './api.ts';
import { useAudiences } from './data.ts';
import { type Asking, type Reply, TookTooLong, WorkerPool } from './worker-pool.ts';

/** How long an answer may take, in milliseconds. Its worker stops by itself then, or else is stopped a little later. */
const deadline = 2000;
const grace = 500;
const limit = { time: deadline };

/** Proofs run beside the interface, so that nothing waits for them, and beside each other. */
const workers = new WorkerPool<Question & { readonly drafts: Drafts }>(
  (hear, broken) => {
    const worker = new Worker(new URL('./analysis.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Reply>) => hear(data);
    worker.onerror = ({ message }) => broken(message || 'the proofs could not be loaded');
    let known: Drafts | undefined;
    return {
      ask({ drafts, asked }) {
        const question: Question = { drafts: drafts === known ? undefined : drafts, asked };
        known = drafts;
        worker.postMessage(question);
      },
      stop: () => worker.terminate(),
    };
  },
  Math.min(4, Math.max(2, navigator.hardwareConcurrency - 1)),
  deadline + grace,
);

/** The answer to a question, or what is said where it took too long. */
async function ask<Answer>(drafts: Drafts, asked: Asked, asking: Asking, late: Answer): Promise<Answer> {
  try {
    return await workers.ask<Answer>({ drafts, asked }, asking);
  } catch (error) {
    if (error instanceof TookTooLong) return late;
    throw error;
  }
}

/** What is said where something took too long. */
export const notProved = notProvedWithin(limit);
const refused = notProved;
const unknownDocument: DocumentAnalysis = {
  faces: [],
  complete: false,
  findings: [],
  overlaps: undefined,
  refused,
};
const unknownCondition: ConditionAnalysis = { findings: [], refused };

function useDrafts(): Drafts | undefined {
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

const staying = {
  keepPreviousData: true,
  revalidateOnFocus: false,
  revalidateIfStale: false,
  // A question that was asked again differently is asked under another key.
  shouldRetryOnError: false,
} as const;

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
      return ask(
        drafts,
        { kind: 'document', of: [document, instant, limit] },
        { topic: 'document' },
        unknownDocument,
      );
    },
    staying,
  ).data;
}

/** What is found about each of some documents as they stand, by its id; those that took too long say so. */
export function useDocumentFindings(
  documents: readonly Document[] | undefined,
  instant: number,
): ReadonlyMap<string, DocumentAnalysis> | undefined {
  const drafts = useDrafts();
  return useSWR<ReadonlyMap<string, DocumentAnalysis>, Error>(
    drafts && documents ? ['document findings', drafts, documents, instant] : null,
    async () => {
      if (!drafts || !documents) throw new Error('asked too early');
      const found = await Promise.all(
        documents.map(async (document) => {
          const asking = { topic: `findings of ${document.id}`, canWait: true };
          const asked: Asked = { kind: 'document', of: [document, instant, limit] };
          return [document.id, await ask(drafts, asked, asking, unknownDocument)] as const;
        }),
      );
      return new Map(found);
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
    async () => {
      if (!drafts) throw new Error('asked too early');
      const asked: Asked = { kind: 'conditions', of: [[condition, editing, instant, limit]] };
      const [found] = await ask(drafts, asked, { topic: 'condition' }, [unknownCondition]);
      return found ?? unknownCondition;
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
      return ask<Relation | null>(
        drafts,
        { kind: 'relation', of: [...pair, instant, limit] },
        { topic: 'relation' },
        null,
      );
    },
    staying,
  ).data;
}

/** How many audiences of a list are looked at in one go. */
const together = 10;

/** What is found about each audience by itself, by its id. */
export function useAudienceFindings(instant: number): ReadonlyMap<string, ConditionAnalysis> | undefined {
  const drafts = useDrafts();
  return useSWR<ReadonlyMap<string, ConditionAnalysis>, Error>(
    drafts ? ['findings', drafts, instant] : null,
    async () => {
      if (!drafts) throw new Error('asked too early');
      const share = { time: deadline / together };
      const groups = Array.from({ length: Math.ceil(drafts.audiences.length / together) }, (_, at) =>
        drafts.audiences.slice(at * together, (at + 1) * together),
      );
      const found = await Promise.all(
        groups.map(async (audiences, at) => {
          const of = audiences.map(({ id, condition }): [Condition, string, number, Limit] => [
            condition,
            id,
            instant,
            share,
          ]);
          const asking = { topic: `audiences ${at}`, canWait: true };
          const answers = await ask<ConditionAnalysis[]>(drafts, { kind: 'conditions', of }, asking, []);
          return audiences.map(({ id }, place) => [id, answers[place] ?? unknownCondition] as const);
        }),
      );
      return new Map(found.flat());
    },
    staying,
  ).data;
}
