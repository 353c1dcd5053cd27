import { fold } from '../attributes/text-folding.ts';
import type { Viewer } from '../attributes/viewer.ts';
import { type Collection, type Item, itemAddress } from '../collections/collection.ts';
import type { Library } from '../deciding/library.ts';
import { audiencesOfDocument } from '../documents/uses.ts';
import type { CompiledPage } from './compiled-page.ts';
import { ItemSearch } from './item-search.ts';
import type { RenderContext } from './markup.ts';
import { once } from './once.ts';
import type { SitePages } from './site-pages.ts';

/** Most pages of items that one search reads. */
const mostRead = 300;

/** Looks for words on the pages of a site, as one viewer gets them. */
export class SiteSearch {
  private readonly itemWords = new Map<Collection, { page: CompiledPage; index: () => ItemSearch }>();

  constructor(
    private readonly pages: SitePages,
    private readonly library: Library,
    locale: string,
  ) {
    for (const collection of library.collections) {
      const page = pages.ofItems.get(collection.id);
      if (!page) continue;
      const own = library.itemsOf(collection.id);
      const index = once(() => new ItemSearch(collection, own, page, library.decider.catalogue, locale));
      this.itemWords.set(collection, { page, index });
    }
  }

  makeAll(): void {
    for (const { index } of this.itemWords.values()) index();
  }

  /**
   * The pages and items that a viewer may open and that hold each of some words, as this viewer gets them; the first of
   * them, in the order of the site.
   *
   * @param words what is looked for, with blanks between the words
   * @param most how many are wanted
   */
  find(words: string, viewer: Viewer, most: number): { title: string; address: string }[] {
    const wanted = fold(words).split(/\s+/).filter(Boolean);
    if (wanted.length === 0) return [];
    const holds = (text: string) => {
      const folded = fold(text);
      return wanted.every((word) => folded.includes(word));
    };
    const found: { title: string; address: string }[] = [];
    const view = this.pages.viewOf(viewer);
    for (const page of this.pages.bySlug.values()) {
      const { access, name, slug } = page.document;
      if (access && !view.contains(access.audience)) continue;
      if (holds(`${name} ${wordsOfMain(this.pages.join(page, view))}`))
        found.push({ title: name, address: `/site/${slug}` });
    }
    let read = 0;
    const { decider } = this.library;
    for (const [collection, { page, index }] of this.itemWords) {
      const audiences = [...audiencesOfDocument(page.document)];
      const decided = new Map<string, RenderContext['choices']>();
      const choicesOf = (item: Item) => {
        if (view.accessLevel(collection, item) !== 'open') return undefined;
        const likeness = this.library.likeness(item, audiences);
        const choices =
          decided.get(likeness) ?? decider.decide(page.document.id, decider.facts(view.at(item)));
        decided.set(likeness, choices);
        return page.choiceOf(choices);
      };
      for (const item of index().find(wanted, choicesOf)) {
        if (found.length >= most || read++ >= mostRead) return found;
        // The page itself has the last word, as within a line something may be shown to some only.
        if (holds(`${item.title} ${item.teaser} ${wordsOfMain(this.pages.ofItem(page, item, view))}`))
          found.push({ title: item.title, address: itemAddress(collection, item) });
      }
    }
    return found.slice(0, most);
  }
}

/** The words between the tags of a page's own part. */
function wordsOfMain(html: string): string {
  const start = html.indexOf('<main');
  const end = html.indexOf('</main>', start);
  return html
    .slice(start, end)
    .replace(/<[^>]*>/g, ' ')
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&#39;/g, '’')
    .replace(/&amp;/g, '&')
    .replace(/\s+/g, ' ');
}
