import { JobThread } from '../work/job-thread.ts';
import type { MarkupJobs } from './markup.worker.ts';

/** Reads HTML from elsewhere. */
export class MarkupThread extends JobThread<MarkupJobs> {
  constructor() {
    super(new URL('./markup-worker.mjs', import.meta.url), {
      milliseconds: 20_000,
      said: 'This page is too large or too tangled to be read.',
    });
  }
}
