import type { Snapshot } from '../../core/deciding/release.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';

/** The release that is live, compiled; undefined until the first one. */
export class LiveSite {
  current:
    | {
        release: number;
        snapshot: Snapshot;
        compiled: CompiledSnapshot;
        /** When the release was made, as an instant. */
        releasedAt: string;
      }
    | undefined;

  /** @param base the site's origin */
  constructor(private readonly base: string) {}

  show(release: number, snapshot: Snapshot, madeAt: Date): void {
    const compiled = new CompiledSnapshot(snapshot, this.base);
    this.current = { release, snapshot, compiled, releasedAt: madeAt.toISOString() };
  }
}
