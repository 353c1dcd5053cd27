import type { Viewer } from '../attributes/viewer.ts';
import { isShownIn } from '../deciding/around.ts';
import type { Slot } from '../documents/document.ts';
import type { CompiledPage } from './compiled-page.ts';
import type { SitePages } from './site-pages.ts';

/** The slots of pages, each by itself, as they stand on other sites. */
export class EmbeddedSlots {
  private readonly byKey = new Map<string, { page: CompiledPage; slot: Slot }>();

  constructor(private readonly pages: SitePages) {
    for (const page of pages.byId.values())
      for (const slot of page.slots) this.byKey.set(`${page.document.id}/${slot.id}`, { page, slot });
  }

  /**
   * What one slot of a page is for a viewer: its variant and the HTML; undefined where there is none, where its page or
   * collection is closed, and where it stands in something that the viewer does not get.
   */
  get(key: string, viewer: Viewer): { variant: string | null; html: string; slot: Slot } | undefined {
    const found = this.byKey.get(key);
    if (!found) return undefined;
    const { page, slot } = found;
    const view = this.pages.viewOf(viewer);
    if (!this.pages.isOpen(page, view)) return undefined;
    const context = this.pages.contextOf(page, view);
    const choiceOf = page.choiceOf(context.choices);
    if (!isShownIn(page.around.get(slot.id) ?? [], choiceOf)) return undefined;
    return {
      variant: slot.variants[choiceOf(slot)]?.id ?? null,
      html: page.joinSlot(slot, context),
      slot,
    };
  }

  /** Every slot of every page that may stand elsewhere, by its key. */
  keys(): { key: string; page: string; slot: string }[] {
    return [...this.byKey].map(([key, { page, slot }]) => ({
      key,
      page: page.document.name,
      slot: slot.name,
    }));
  }
}
