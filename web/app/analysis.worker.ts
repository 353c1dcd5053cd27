import { z } from 'zod';
import type { analyseCondition, analyseDocument } from '../../core/analysis/analyse.ts';

z.config({ jitless: true });

/** What the worker is asked, with the arguments of the function that answers. */
export type Question =
  | { kind: 'document'; of: Parameters<typeof analyseDocument> }
  | { kind: 'condition'; of: Parameters<typeof analyseCondition> };

const loading = import('../../core/analysis/analyse.ts');

self.onmessage = async ({ data }: MessageEvent<{ id: number; question: Question }>) => {
  const { id, question } = data;
  try {
    const analyse = await loading;
    const answer =
      question.kind === 'document'
        ? analyse.analyseDocument(...question.of)
        : analyse.analyseCondition(...question.of);
    self.postMessage({ id, answer });
  } catch (error) {
    self.postMessage({ id, failure: error instanceof Error ? error.message : String(error) });
  }
};
