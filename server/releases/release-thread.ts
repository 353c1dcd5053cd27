import { JobThread } from '../work/job-thread.ts';
import type { ReleaseJobs } from './release.worker.ts';

/** Works out what a release would change, and whether it can be shown. */
export class ReleaseThread extends JobThread<ReleaseJobs> {
  constructor() {
    super(new URL('./release-worker.mjs', import.meta.url), {
      milliseconds: 120_000,
      said: 'There is too much in these changes to be compared in time. Release them in smaller steps.',
    });
  }
}
