import type { Viewer } from '../attributes/viewer.ts';
import { type Item, itemAddress } from '../collections/collection.ts';
import { audiencesAbout, type Library } from '../deciding/library.ts';
import { LibraryView } from '../deciding/library-view.ts';
import { addressesOfMenu, audiencesOfMenu } from '../deciding/menu.ts';
import type { Snapshot } from '../deciding/release.ts';
import { type Document, walkContent } from '../documents/document.ts';
import { audiencesOfDocument, mergedAttributes } from '../documents/uses.ts';
import type { Answer } from './answer.ts';
import type { PictureSizes } from './blocks/drawing.ts';
import { CompiledPage, contextFor } from './compiled-page.ts';
import { JoinedTexts } from './joined-texts.ts';
import type { RenderContext } from './markup.ts';
import type { Surrounding } from './page.ts';

/** What the texts of all pages that are remembered may take in memory, in bytes. */
const mostTexts = 16 * 2 ** 20;

const nothing: Answer = { kind: 'nothing' };

/** The pages of a snapshot by their addresses, with who may open them. */
export class SitePages {
  /** Those with an address of their own. */
  readonly bySlug = new Map<string, CompiledPage>();
  readonly byId = new Map<string, CompiledPage>();
  /** Those that show the items of a collection, by its id. */
  readonly ofItems = new Map<string, CompiledPage>();

  constructor(
    snapshot: Snapshot,
    private readonly library: Library,
    { assets, sizes }: { readonly assets: string; readonly sizes: PictureSizes },
  ) {
    const { catalogue } = library.decider;
    const { settings, documents, collections = [], items = [] } = snapshot;
    const surrounding: Surrounding = {
      settings,
      catalogue,
      pages: documents.filter(({ kind, collection }) => kind === 'page' && !collection),
      assets,
    };
    const volatile = audiencesAbout(snapshot.audiences, (id) => this.isVolatile(id));
    const inMenu = [
      ...surrounding.pages.flatMap(({ access }) => (access ? [access.audience] : [])),
      ...audiencesOfMenu(settings),
    ];
    // Items come and go with their windows.
    const menuVaries = addressesOfMenu(settings).some((address) => library.find(placeOf(address)));
    const texts = new JoinedTexts(mostTexts);
    for (const document of documents) {
      if (document.kind !== 'page') continue;
      const of = { document: document.id, catalogue, locale: settings.locale, collections, items, sizes };
      const needed = [...audiencesOfDocument(document), ...inMenu];
      const varies =
        menuVaries || needed.some((audience) => volatile.has(audience)) || this.dependsOnMoment(document);
      const page = new CompiledPage(document, of, surrounding, varies, texts);
      this.byId.set(document.id, page);
      if (document.collection) this.ofItems.set(document.collection, page);
      else this.bySlug.set(document.slug, page);
    }
  }

  /** Makes everything that is made when it is first wanted. Throws where something can't be shown. */
  makeAll(): void {
    for (const page of this.byId.values()) page.make();
  }

  /** Whether a page stands at an address, whoever may open it. */
  has(slug: string): boolean {
    return this.bySlug.has(slug);
  }

  /** What stands at a page's address for a viewer. */
  at(slug: string, viewer: Viewer): Answer {
    const page = this.bySlug.get(slug);
    return page ? this.answer(page, this.viewOf(viewer)) : nothing;
  }

  /** A page by its id, such as the one that stands where none is. */
  named(id: string, viewer: Viewer): Answer {
    const page = this.byId.get(id);
    return page && !page.document.collection ? this.answer(page, this.viewOf(viewer)) : nothing;
  }

  /** The page of the item at an address such as `guides/moon`, for a viewer. */
  item(address: string, viewer: Viewer): Answer {
    const found = this.library.find(address);
    const page = found && this.ofItems.get(found.collection.id);
    if (!found || !page) return nothing;
    const { item, collection } = found;
    const view = this.viewOf(viewer);
    const level = view.accessLevel(collection, item);
    if (level === 'open')
      return { kind: 'page', html: this.ofItem(page, item, view), sameForAll: false, notice: false };
    const access = page.document.access;
    const mayOpenPage = !access || this.viewOf(view.at(item)).contains(access.audience);
    if (level === 'hidden' && mayOpenPage) return this.inPlaceOf(access?.otherwise ?? 'not-found', view);
    return this.inPlaceOf(access?.otherwise ?? 'sign-in', view);
  }

  /** The pages, items and feeds that a viewer may open, as addresses. */
  addresses(viewer: Viewer): string[] {
    const view = this.viewOf(viewer);
    const pages = [...this.bySlug.values()]
      .filter(({ document: { access } }) => !access || view.contains(access.audience))
      .map(({ document }) => `/site/${document.slug}`);
    const items = this.library.collections.flatMap((collection) =>
      this.ofItems.has(collection.id)
        ? view.openTo(collection).map((item) => itemAddress(collection, item))
        : [],
    );
    return [...pages, ...items];
  }

  /** Whether a viewer may open a place on the site; true for any that is no page or item. */
  mayOpen(address: string, viewer: Viewer): boolean {
    return this.mayOpenAs(address, this.viewOf(viewer));
  }

  /** Whether a page may be opened: by its own access, and of a page for items by that of their collection. */
  isOpen({ document: { access, collection } }: CompiledPage, view: LibraryView): boolean {
    const closing = this.library.collections.find(({ id }) => id === collection)?.access ?? null;
    return [access?.audience ?? null, closing].every(
      (audience) => audience === null || view.contains(audience),
    );
  }

  /** A page as one viewer gets it, whether or not they may open it. */
  join(page: CompiledPage, view: LibraryView): string {
    return page.join(this.contextOf(page, view));
  }

  /** The page of an item as one viewer gets it, whether or not they may open it. */
  ofItem(page: CompiledPage, item: Item, view: LibraryView): string {
    return this.join(page, this.viewOf(view.at(item)));
  }

  /** The context of rendering a page for a viewer. */
  contextOf(page: CompiledPage, view: LibraryView): RenderContext {
    return contextFor(page.document.id, this.library, view, (address) => this.mayOpenAs(address, view));
  }

  viewOf(viewer: Viewer): LibraryView {
    return new LibraryView(this.library, viewer);
  }

  private mayOpenAs(address: string, view: LibraryView): boolean {
    const path = placeOf(address);
    const found = this.library.find(path);
    if (found) return view.accessLevel(found.collection, found.item) === 'open';
    const access = this.bySlug.get(path)?.document.access;
    return !access || view.contains(access.audience);
  }

  private answer(page: CompiledPage, view: LibraryView): Answer {
    const { access } = page.document;
    if (access && !view.contains(access.audience)) return this.inPlaceOf(access.otherwise, view);
    if (page.varies || view.viewer.contact !== null)
      return { kind: 'page', html: this.join(page, view), sameForAll: false, notice: false };
    page.signedOut ??= this.join(page, view);
    return { kind: 'page', html: page.signedOut, sameForAll: true, notice: false };
  }

  /** What stands in the place of something that a viewer may not open. */
  private inPlaceOf(otherwise: NonNullable<Document['access']>['otherwise'], view: LibraryView): Answer {
    if (otherwise === 'not-found') return nothing;
    if (otherwise === 'sign-in') return view.viewer.signedIn ? { kind: 'closed' } : { kind: 'sign-in' };
    const page = this.byId.get(otherwise.page);
    // A notice that is itself closed, or gone, says nothing.
    if (!page || page.document.access || page.document.collection) return nothing;
    return { kind: 'page', html: this.join(page, view), sameForAll: false, notice: true };
  }

  private isVolatile(attribute: string): boolean {
    const source = this.library.decider.catalogue.get(attribute)?.source;
    return source === 'visit' || source === 'moment';
  }

  /** Whether a page says something else at another time or on another visit, besides by its audiences. */
  private dependsOnMoment({ content }: Document): boolean {
    for (const attribute of mergedAttributes(content)) if (this.isVolatile(attribute)) return true;
    // Items come and go with their windows.
    for (const { node } of walkContent(content))
      if (
        node.kind === 'list' ||
        node.kind === 'countdown' ||
        (node.kind === 'link' && this.library.find(placeOf(node.address)))
      )
        return true;
    return false;
  }
}

/** The place on the site that an address leads to, without its query and fragment. */
function placeOf(address: string): string {
  return address.replace(/[?#].*$/s, '').replace(/^\/site\//, '');
}
