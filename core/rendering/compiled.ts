import { Decider } from '../deciding/decide.ts';
import { Library } from '../deciding/library.ts';
import type { Snapshot } from '../deciding/release.ts';
import { CompiledEmails } from './compiled-emails.ts';
import { EmbeddedSlots } from './embedded-slots.ts';
import { PageParts } from './page-parts.ts';
import { SitePages } from './site-pages.ts';
import { SiteSearch } from './site-search.ts';

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
   * @param views how often each item was opened; it is read at each decision, so it may go on counting
   */
  constructor(
    readonly snapshot: Snapshot,
    base: string,
    views?: ReadonlyMap<string, number>,
  ) {
    this.decider = new Decider(snapshot);
    this.library = new Library(this.decider, views);
    this.pages = new SitePages(snapshot, this.library);
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
