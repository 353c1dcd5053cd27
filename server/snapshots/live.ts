import type { Snapshot } from '../../core/deciding/release.ts';
import { CompiledSnapshot, type Serving } from '../../core/rendering/compiled.ts';
import { ReadyTexts } from '../http/compressed.ts';

/** Attributes that need something to be remembered from page to page. */
const remembered = ['visit-pages', 'visit-count', 'visit-returning', 'visit-item-views', 'visit-seconds'];

interface LiveRelease {
  release: number;
  snapshot: Snapshot;
  compiled: CompiledSnapshot;
  /** The attributes of the visit that it asks for. */
  asksOfVisit: ReadonlySet<string>;
  /** Whether it asks for something that needs to be remembered from page to page. */
  remembers: boolean;
  /** When the release was made, as an instant. */
  releasedAt: string;
}

/** The release that is live, compiled; undefined until the first one. */
export class LiveSite {
  current: LiveRelease | undefined;
  /** The pages that were sent last, ready to be sent again. */
  readonly ready = new ReadyTexts();

  /** @param base the site's origin */
  constructor(
    readonly base: string,
    private readonly serving: Serving & { readonly assets: string },
  ) {}

  /** The address of the folder of the site's own style, script and fonts. */
  get assets(): string {
    return this.serving.assets;
  }

  /** A snapshot made ready to be shown: one of which it is known that it can be. */
  prepare(snapshot: Snapshot): {
    compiled: CompiledSnapshot;
    show: (release: number, madeAt: Date) => void;
  } {
    const compiled = new CompiledSnapshot(snapshot, this.base, this.serving);
    const { asked, catalogue } = compiled.decider;
    const asksOfVisit = new Set([...asked].filter((id) => catalogue.get(id)?.source === 'visit'));
    const remembers = remembered.some((id) => asked.has(id));
    return {
      compiled,
      show: (release, madeAt) => {
        this.current = {
          release,
          snapshot,
          compiled,
          asksOfVisit,
          remembers,
          releasedAt: madeAt.toISOString(),
        };
      },
    };
  }
}
