import { Decider } from '../deciding/decide.ts';
import { Library } from '../deciding/library.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { PictureSizes } from './blocks/drawing.ts';
import { CompiledEmails } from './compiled-emails.ts';
import { EmbeddedSlots } from './embedded-slots.ts';
import { siteAssets } from './page.ts';
import { PageParts } from './page-parts.ts';
import { SitePages } from './site-pages.ts';
import { SiteSearch } from './site-search.ts';

/** What a snapshot is served with that it does not hold itself. */
export interface Serving {
  /** How often each item was opened; it is read at each decision, so it may go on counting. */
  readonly views?: ReadonlyMap<string, number> | undefined;
  /** The address of the folder of the site's own style, script and fonts. */
  readonly assets?: string;
  /** The sizes of pictures; it is read when a page is made, so it may grow. */
  readonly sizes?: PictureSizes;
}

/**
 * A snapshot compiled for serving: each page and email flattened once, when it is first wanted, and decided and joined at
 * each request.
 */
export class CompiledSnapshot {
  readonly decider: Decider;
  readonly library: Library;
  readonly pages: SitePages;
  readonly parts: PageParts;
  readonly search: SiteSearch;
  readonly slots: EmbeddedSlots;
  readonly emails: CompiledEmails;

  /**
   * @param base the site's origin, for what must be absolute in mail
   */
  constructor(
    readonly snapshot: Snapshot,
    base: string,
    { views, assets = siteAssets, sizes = new Map() }: Serving = {},
  ) {
    this.decider = new Decider(snapshot);
    this.library = new Library(this.decider, views);
    this.pages = new SitePages(snapshot, this.library, { assets, sizes });
    this.parts = new PageParts(this.pages, this.library);
    this.search = new SiteSearch(this.pages, this.library, snapshot.settings.locale);
    this.slots = new EmbeddedSlots(this.pages);
    this.emails = new CompiledEmails(snapshot, this.library, base, (address, viewer) =>
      this.pages.mayOpen(address, viewer),
    );
  }

  /** Makes everything that is made when it is first wanted. Throws where something can't be shown. */
  makeAll(): void {
    this.pages.makeAll();
    this.emails.makeAll();
    this.search.makeAll();
  }
}
