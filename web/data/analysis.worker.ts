import { z } from 'zod';
import type { analyseCondition, analyseDocument, Drafts } from '../../core/analysis/analyse.ts';
import type { relationOf } from '../../core/analysis/relation.ts';

z.config({ jitless: true });

/** What a function is given besides the drafts, which come first. */
type Besides<Ask extends (drafts: Drafts, ...besides: never[]) => unknown> = Ask extends (
  drafts: Drafts,
  ...besides: infer Rest
) => unknown
  ? Rest
  : never;

/** What is asked about some drafts; several conditions are answered in a row. */
export type Asked =
  | { kind: 'document'; of: Besides<typeof analyseDocument> }
  | { kind: 'conditions'; of: Besides<typeof analyseCondition>[] }
  | { kind: 'relation'; of: Besides<typeof relationOf> };

/** A question; its drafts are left out where they are those of the question before, so that they cross over once. */
export interface Question {
  readonly drafts: Drafts | undefined;
  readonly asked: Asked;
}

let drafts: Drafts | undefined;

const [analyse, relation] = await Promise.all([
  import('../../core/analysis/analyse.ts'),
  import('../../core/analysis/relation.ts'),
]);

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
      return analyse.analyseDocument(about, ...asked.of);
    case 'conditions':
      return asked.of.map((one) => analyse.analyseCondition(about, ...one));
    case 'relation':
      return relation.relationOf(about, ...asked.of) ?? null;
  }
}
