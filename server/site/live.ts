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

  /**
   * @param base the site's origin
   * @param views how often each item was opened
   */
  constructor(
    private readonly base: string,
    private readonly views?: ReadonlyMap<string, number>,
  ) {}

  show(release: number, snapshot: Snapshot, madeAt: Date): void {
    const compiled = new CompiledSnapshot(snapshot, this.base, this.views);
    this.current = { release, snapshot, compiled, releasedAt: madeAt.toISOString() };
  }
}
