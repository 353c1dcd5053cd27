import { useMemo } from 'react';
import useSWR from 'swr';
import { listedFactsSchema } from '../../contract/facts.ts';
import { attributesSchema } from '../../contract/people.ts';
import { settingsSchema } from '../../contract/releases.ts';
import type { ConditionAnalysis } from '../../core/analysis/condition-analysis.ts';
import { notProvedWithin } from '../../core/analysis/diagrams/work.ts';
import type { DocumentAnalysis as Analysis, ChosenRepair } from '../../core/analysis/document-analysis.ts';
import type { OfferedRepair } from '../../core/analysis/finding.ts';
import type { Relation } from '../../core/analysis/relation.ts';
import type { Drafts } from '../../core/analysis/surroundings.ts';
import type { Condition } from '../../core/conditions/condition.ts';
import type { Content, Document } from '../../core/documents/document.ts';
import type { Asked, Question } from './analysis.worker.ts';
import { useApi } from './api.ts';
import { useAudiences } from './data.ts';
import { type Asking, type Reply, type StartWorker, TookTooLong, WorkerPool } from './worker-pool.ts';

/** Time limit of an analysis, in milliseconds. Its worker stops itself by then, or is terminated a little later. */
const deadline = 2000;
const grace = 500;
const limit = { time: deadline };

type Whole = Question & { readonly drafts: Drafts };

const start: StartWorker<Whole> = (hear, broken) => {
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
};

const beside = Math.min(4, Math.max(2, navigator.hardwareConcurrency - 1));
/** Proofs run beside the interface, so that nothing waits for them, and beside each other. */
const workers = new WorkerPool<Whole>(start, beside, deadline + grace);
/** Each keeps what it proved of the same audiences, so that only what changed is proved again. */
const keepers = Array.from({ length: beside }, () => new WorkerPool<Whole>(start, 1, deadline + grace, true));

/** The answer to a question, or what is said where it took too long. */
async function ask<Answer>(
  drafts: Drafts,
  asked: Asked,
  asking: Asking,
  late: Answer,
  pool = workers,
): Promise<Answer> {
  try {
    return await pool.ask<Answer>({ drafts, asked }, asking);
  } catch (error) {
    if (error instanceof TookTooLong) return late;
    throw error;
  }
}

/** What is found of a document. What it is after a repair is worked out once that is chosen. */
export type DocumentAnalysis = Analysis<OfferedRepair>;

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

/**
 * Faces and findings of a document as it stands; the previous ones until the new ones are there.
 *
 * @param skeleton see {@link useSkeleton}
 */
export function useDocumentAnalysis(
  skeleton: Document | undefined,
  instant: number,
): DocumentAnalysis | undefined {
  const drafts = useDrafts();
  return useSWR<DocumentAnalysis, Error>(
    drafts && skeleton ? ['analysis', drafts, skeleton, instant] : null,
    () => {
      if (!drafts || !skeleton) throw new Error('asked too early');
      return ask(
        drafts,
        { kind: 'document', of: [skeleton, instant, limit] },
        { topic: 'document' },
        unknownDocument,
      );
    },
    staying,
  ).data;
}

let nextRepair = 0;

/** Repairs documents as they stand; null where what is found of one now has no such repair, undefined where it takes too long. */
export function useRepair(
  instant: number,
): (document: Document, repair: ChosenRepair) => Promise<Content | null | undefined> {
  const drafts = useDrafts();
  return async (document, repair) => {
    if (!drafts) return null;
    const asked: Asked = { kind: 'repaired', of: [document, instant, repair, limit] };
    // One that is chosen right after another waits for it.
    const topic = `repair ${nextRepair++}`;
    return ask<Content | null | undefined>(drafts, asked, { topic }, undefined);
  };
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
      const asked: Asked = { kind: 'condition', of: [condition, editing, instant, limit] };
      return ask(drafts, asked, { topic: 'condition' }, unknownCondition);
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

/** The findings of each audience on its own, by its id. */
export function useAudienceFindings(instant: number): ReadonlyMap<string, ConditionAnalysis> | undefined {
  const drafts = useDrafts();
  return useSWR<ReadonlyMap<string, ConditionAnalysis>, Error>(
    drafts ? ['findings', drafts, instant] : null,
    async () => {
      if (!drafts) throw new Error('asked too early');
      const share = { time: deadline / together };
      const ids = drafts.audiences.map(({ id }) => id);
      const groups = Array.from({ length: Math.ceil(ids.length / together) }, (_, at) =>
        ids.slice(at * together, (at + 1) * together),
      );
      const found = await Promise.all(
        groups.map(async (group, at) => {
          const asked: Asked = { kind: 'audiences', of: [group, instant, share] };
          const answers = await ask<ConditionAnalysis[]>(
            drafts,
            asked,
            { topic: `audiences ${at}` },
            [],
            keepers[at % keepers.length],
          );
          return group.map((id, place) => [id, answers[place] ?? unknownCondition] as const);
        }),
      );
      return new Map(found.flat());
    },
    staying,
  ).data;
}
