import { type ChangesOfDocument, type Compared, Comparison } from '../../core/analysis/comparison.ts';
import { type Snapshot, snapshotSchema } from '../../core/deciding/release.ts';
import type { FaceCount } from '../../core/population/classify.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';
import type { Doing } from '../work/job-thread.ts';

/** What takes long before a release is made. */
export type ReleaseJobs = {
  /** Compares what is live with something else. What `changes` is asked about is the last comparison. */
  compare: {
    given: {
      readonly before: Snapshot | undefined;
      readonly after: Snapshot;
      readonly instant: number;
      readonly views: ReadonlyMap<string, number>;
    };
    result: { readonly documents: readonly Compared[]; readonly itemsLeft: number };
  };
  /** What changes of each document of the comparison, by the faces that contacts get of it. */
  changes: {
    given: readonly (readonly FaceCount[])[];
    result: readonly (ChangesOfDocument | undefined)[];
  };
  /** Reads a stored snapshot that is to be live; the reason where it can't be read or shown. */
  read: {
    given: { readonly stored: unknown; readonly base: string };
    result: { readonly snapshot: Snapshot } | { readonly reason: string };
  };
};

let comparison: Comparison | undefined;

export const jobs: Doing<ReleaseJobs> = {
  compare({ before, after, instant, views }) {
    comparison = new Comparison(before, after, instant, views);
    const { documents, itemsLeft } = comparison;
    return { documents, itemsLeft };
  },
  changes(faces) {
    if (!comparison) throw new Error('nothing was compared');
    return comparison.changes(faces);
  },
  read({ stored, base }) {
    const read = snapshotSchema.safeParse(stored);
    if (!read.success) {
      const [issue] = read.error.issues;
      return { reason: `${issue?.path.join('.') ?? ''} ${issue?.message ?? 'is not sound'}` };
    }
    try {
      new CompiledSnapshot(read.data, base).makeAll();
      return { snapshot: read.data };
    } catch (error) {
      return { reason: error instanceof Error ? error.message : String(error) };
    }
  },
};
