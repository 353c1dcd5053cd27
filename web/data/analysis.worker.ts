import { z } from 'zod';
import type { analyseCondition, analyseDocument } from '../../core/analysis/analyse.ts';
import type { relationOf } from '../../core/analysis/relation.ts';

z.config({ jitless: true });

/** What the worker is asked, with the arguments of the function that answers; several conditions are answered in a row. */
export type Question =
  | { kind: 'document'; of: Parameters<typeof analyseDocument> }
  | { kind: 'conditions'; of: Parameters<typeof analyseCondition>[] }
  | { kind: 'relation'; of: Parameters<typeof relationOf> };

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
  switch (question.kind) {
    case 'document':
      return analyse.analyseDocument(...question.of);
    case 'conditions':
      return question.of.map((one) => analyse.analyseCondition(...one));
    case 'relation':
      return relation.relationOf(...question.of) ?? null;
  }
}
