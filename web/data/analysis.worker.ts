import { z } from 'zod';
import type { AudienceAnalyses } from '../../core/analysis/audience-analyses.ts';
import type { analyseCondition } from '../../core/analysis/condition-analysis.ts';
import type { analyseDocument, repaired } from '../../core/analysis/document-analysis.ts';
import type { relationOf } from '../../core/analysis/relation.ts';
import type { Drafts } from '../../core/analysis/surroundings.ts';

z.config({ jitless: true });

/** What a function is given besides the drafts, which come first. */
type Besides<Ask extends (drafts: Drafts, ...besides: never[]) => unknown> = Ask extends (
  drafts: Drafts,
  ...besides: infer Rest
) => unknown
  ? Rest
  : never;

/** What is asked about some drafts. */
export type Asked =
  | { kind: 'document'; of: Besides<typeof analyseDocument> }
  | { kind: 'repaired'; of: Besides<typeof repaired> }
  | { kind: 'condition'; of: Besides<typeof analyseCondition> }
  | { kind: 'audiences'; of: Besides<AudienceAnalyses['of']> }
  | { kind: 'relation'; of: Besides<typeof relationOf> };

/** A question; its drafts are left out where they are those of the question before, so that they cross over once. */
export interface Question {
  readonly drafts: Drafts | undefined;
  readonly asked: Asked;
}

let drafts: Drafts | undefined;

const [conditions, { AudienceAnalyses: Analyses }, documents, relation] = await Promise.all([
  import('../../core/analysis/condition-analysis.ts'),
  import('../../core/analysis/audience-analyses.ts'),
  import('../../core/analysis/document-analysis.ts'),
  import('../../core/analysis/relation.ts'),
]);
const audiences = new Analyses();

self.onmessage = ({ data }: MessageEvent<Question>) => {
  try {
    self.postMessage({ answer: answer(data) });
  } catch (error) {
    self.postMessage({ failure: error instanceof Error ? error.message : String(error) });
  }
};
self.postMessage({ ready: true });

function answer(question: Question) {
  drafts = question.drafts ?? drafts;
  if (!drafts) throw new Error('nothing is known of the drafts');
  const about = drafts;
  const { asked } = question;
  switch (asked.kind) {
    case 'document':
      return documents.offering(documents.analyseDocument(about, ...asked.of));
    case 'repaired':
      return documents.repaired(about, ...asked.of);
    case 'condition':
      return conditions.analyseCondition(about, ...asked.of);
    case 'audiences':
      return audiences.of(about, ...asked.of);
    case 'relation':
      return relation.relationOf(about, ...asked.of) ?? null;
  }
}
