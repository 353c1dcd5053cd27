import { parentPort } from 'node:worker_threads';
import { AudienceAnalyses } from '../core/analysis/audience-analyses.ts';
import type { Drafts } from '../core/analysis/surroundings.ts';
import { instant } from './crowd.ts';

/** A question to a thread; `isAnew` has it forget its earlier results first. */
export interface Asked {
  readonly drafts: Drafts;
  readonly ids: readonly string[];
  readonly isAnew: boolean;
}

let analyses = new AudienceAnalyses();

parentPort?.on('message', ({ drafts, ids, isAnew }: Asked) => {
  if (isAnew) analyses = new AudienceAnalyses();
  const found = analyses.of(drafts, ids, instant, { time: 60_000 }).flatMap(({ findings }) => findings);
  if (found.some(({ kind }) => kind === 'not-proved')) throw new Error('not proved');
  parentPort?.postMessage(found.length);
});
