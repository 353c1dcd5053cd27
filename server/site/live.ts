import type { Snapshot } from '../../core/deciding/release.ts';
import { CompiledSnapshot } from '../../core/rendering/compiled.ts';

/** The release that is live, compiled; undefined until the first one. */
export class LiveSite {
  current: { release: number; snapshot: Snapshot; compiled: CompiledSnapshot } | undefined;

  /** @param base the site's origin */
  constructor(private readonly base: string) {}

  show(release: number, snapshot: Snapshot): void {
    this.current = { release, snapshot, compiled: new CompiledSnapshot(snapshot, this.base) };
  }
}
