import { z } from 'zod';
import type { analyseCondition, analyseDocument } from '../../core/analysis/analyse.ts';
import type { relationOf } from '../../core/analysis/relation.ts';

z.config({ jitless: true });

/** What the worker is asked, with the arguments of the function that answers. */
export type Question =
  | { kind: 'document'; of: Parameters<typeof analyseDocument> }
  | { kind: 'condition'; of: Parameters<typeof analyseCondition> }
  | { kind: 'relation'; of: Parameters<typeof relationOf> };

const loading = Promise.all([
  import('../../core/analysis/analyse.ts'),
  import('../../core/analysis/relation.ts'),
]);

self.onmessage = async ({ data }: MessageEvent<{ id: number; question: Question }>) => {
  const { id, question } = data;
  try {
    const [analyse, relation] = await loading;
    self.postMessage({ id, answer: answer(question, analyse, relation) });
  } catch (error) {
    self.postMessage({ id, failure: error instanceof Error ? error.message : String(error) });
  }
};

function answer(
  question: Question,
  analyse: typeof import('../../core/analysis/analyse.ts'),
  relation: typeof import('../../core/analysis/relation.ts'),
) {
  switch (question.kind) {
    case 'document':
      return analyse.analyseDocument(...question.of);
    case 'condition':
      return analyse.analyseCondition(...question.of);
    case 'relation':
      return relation.relationOf(...question.of) ?? null;
  }
}
