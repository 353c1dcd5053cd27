import type { Viewer } from '../attributes/viewer.ts';
import { inAudience } from '../conditions/condition.ts';
import { possible } from '../conditions/possible.ts';
import type { Library } from '../deciding/library.ts';
import type { FormBlock } from '../documents/blocks/people.ts';
import { walkContent } from '../documents/document.ts';
import { filesIn } from '../documents/uses.ts';
import type { CompiledPage } from './compiled-page.ts';
import type { SitePages } from './site-pages.ts';

/** What is asked for by a request of its own and belongs to a page: its files, and the forms that answers are sent to. */
export class PageParts {
  /** Files that emails show. */
  private readonly mailed: ReadonlySet<string>;
  /** How audiences are asked where nothing is known of the visit. */
  private readonly onAnyVisit: Parameters<typeof possible>[2];

  constructor(
    private readonly pages: SitePages,
    private readonly library: Library,
  ) {
    const { snapshot, catalogue, membership } = library.decider;
    this.mailed = new Set(
      snapshot.documents.flatMap(({ kind, content }) => (kind === 'email' ? [...filesIn(content)] : [])),
    );
    const conditions = new Map(snapshot.audiences.map(({ id, condition }) => [id, condition]));
    this.onAnyVisit = {
      catalogue,
      conditionOf: (id) => (membership.problems.has(id) ? undefined : conditions.get(id)),
      isUnknown: (attribute) => catalogue.get(attribute)?.source === 'visit',
    };
  }

  /**
   * Whether a viewer may get a file: where a page or an item shows it to them; one that an email shows anybody, since mail
   * programs ask for it as nobody.
   */
  mayHaveFile(file: string, viewer: Viewer): boolean {
    if (this.mailed.has(file)) return true;
    for (const page of this.pages.byId.values())
      for (const { node } of walkContent(page.document.content))
        if ('file' in node && node.file === file && this.mayBeShown(page, node.id, viewer)) return true;
    const view = this.pages.viewOf(viewer);
    return this.library.collections.some((collection) =>
      this.library
        .itemsOf(collection.id)
        .some(
          (item) =>
            Object.values(item.values).includes(file) && view.accessLevel(collection, item) === 'open',
        ),
    );
  }

  /** A form that a page shows to a viewer; undefined where there is none such. */
  form(documentId: string, blockId: string, viewer: Viewer): { form: FormBlock; slug: string } | undefined {
    const page = this.pages.byId.get(documentId);
    if (!page) return undefined;
    const { content, slug } = page.document;
    for (const { node } of walkContent(content))
      if (node.kind === 'form' && node.id === blockId)
        return this.mayBeShown(page, node.id, viewer) ? { form: node, slug } : undefined;
    return undefined;
  }

  /**
   * Whether a page can show a node to a viewer on some visit: a file, or the answers of a form, is asked for by another
   * request than the page was, which tells other things of the visit. All else is decided as ever. Of a page for items, one
   * that may be opened must show it.
   */
  private mayBeShown(page: CompiledPage, node: string, viewer: Viewer): boolean {
    const view = this.pages.viewOf(viewer);
    const collection = this.library.collections.find(({ id }) => id === page.document.collection);
    const views = collection
      ? view.openTo(collection).map((item) => this.pages.viewOf(view.at(item)))
      : [view];
    const around = page.around.get(node) ?? [];
    return views.some((one) => {
      const can = (audience: string) => possible(inAudience(audience), one.facts, this.onAnyVisit);
      return (
        this.pages.isOpen(page, one) &&
        around.every(({ slot: { variants }, choice }) => {
          const own = variants[choice];
          const above = own ? variants.slice(0, choice) : variants;
          return (!own || can(own.audience).holds) && above.every(({ audience }) => can(audience).fails);
        })
      );
    });
  }
}
