import { fold } from '../attributes/text-folding.ts';
import type { Facts, Viewer } from '../attributes/viewer.ts';
import { type Collection, type Item, itemAddress } from '../collections/collection.ts';
import { inAudience } from '../conditions/condition.ts';
import { possible } from '../conditions/possible.ts';
import { type Around, aroundEach, isShownIn } from '../deciding/around.ts';
import { Decider, everyoneElse } from '../deciding/decide.ts';
import { audiencesAbout, Library } from '../deciding/library.ts';
import { audiencesOfMenu } from '../deciding/menu.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { FormBlock } from '../documents/blocks/people.ts';
import { type Document, type Slot, slotsOf, walkContent } from '../documents/document.ts';
import { audiencesOfDocument, filesIn, mergedAttributes } from '../documents/uses.ts';
import { type EmailParts, emailDocument, emailParts } from './email.ts';
import { Flat } from './flatten.ts';
import { ItemSearch } from './item-search.ts';
import type { Given } from './markup.ts';
import { pageBody, pageBranches, pageTitle, type Surrounding, siteDocument, siteFrame } from './page.ts';

export interface Message {
  subject: string;
  html: string;
  text: string;
}

/** What stands at an address for a viewer. */
export type Answer =
  | {
      kind: 'page';
      html: string;
      /** Whether every signed-out viewer gets these very bytes, at any time and from anywhere. */
      sameForAll: boolean;
      /** Whether it is shown in the place of something that this viewer may not open. */
      notice: boolean;
    }
  | { kind: 'sign-in' }
  | { kind: 'closed' }
  | { kind: 'nothing' };

interface FlatEmail {
  subject: Flat;
  html: Flat;
  text: Flat;
}

interface FlatPage {
  document: Document;
  /** The slots around each of its nodes, and the place of each slot among its choices. */
  around: ReadonlyMap<string, readonly Around[]>;
  slotAt: ReadonlyMap<string, number>;
  html: () => Flat;
  /** Whether it asks for anything but who is signed in. */
  varies: boolean;
  /** What every signed-out viewer gets, once it was made. */
  signedOut: string | undefined;
}

/** Most pages of items that one search reads. */
const mostRead = 300;

const nothing: Answer = { kind: 'nothing' };

/**
 * A snapshot compiled for serving: each page and email flattened once, when it is first wanted, and decided and joined at
 * each request.
 */
export class CompiledSnapshot {
  readonly decider: Decider;
  readonly library: Library;
  private readonly pages = new Map<string, FlatPage>();
  private readonly byId = new Map<string, FlatPage>();
  private readonly itemPages = new Map<string, FlatPage>();
  private readonly itemWords = new Map<Collection, { page: FlatPage; index: () => ItemSearch }>();
  private readonly emails = new Map<string, () => FlatEmail>();
  /** How audiences are asked where nothing is known of the visit. */
  private readonly onAnyVisit: Parameters<typeof possible>[2];
  /** Files that emails show. */
  private readonly mailed = new Set<string>();
  private readonly slots = new Map<
    string,
    { page: FlatPage; slot: Slot; index: number; flats: () => Flat[] }
  >();

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
    const { catalogue } = this.decider;
    const { settings, documents, collections = [], items = [] } = snapshot;
    const surrounding: Surrounding = {
      settings,
      catalogue,
      pages: documents.filter(({ kind, collection }) => kind === 'page' && !collection),
    };
    const volatile = audiencesAbout(snapshot.audiences, (id) => this.isVolatile(id));
    const { membership } = this.decider;
    const conditions = new Map(snapshot.audiences.map(({ id, condition }) => [id, condition]));
    this.onAnyVisit = {
      catalogue,
      conditionOf: (id) => (membership.problems.has(id) ? undefined : conditions.get(id)),
      isUnknown: (attribute) => catalogue.get(attribute)?.source === 'visit',
    };
    const inMenu = [
      ...surrounding.pages.flatMap(({ access }) => (access ? [access.audience] : [])),
      ...audiencesOfMenu(settings),
    ];
    for (const document of documents) {
      if (document.kind === 'shared') continue;
      if (document.kind === 'email') {
        this.emails.set(
          document.id,
          once(() => flatEmail(emailParts(document.content, catalogue, settings, base), catalogue, settings)),
        );
        for (const file of filesIn(document.content)) this.mailed.add(file);
        continue;
      }
      const of = { document: document.id, catalogue, locale: settings.locale, collections, items };
      const html = once(() => {
        const frame = siteFrame(pageBody(document.content, of), surrounding);
        return new Flat([siteDocument(titleOf(document, of, settings), frame, settings)], catalogue, 'html');
      });
      const needed = [...audiencesOfDocument(document), ...inMenu];
      const slots = slotsOf(document.content);
      const page: FlatPage = {
        document,
        around: aroundEach(document.content),
        slotAt: new Map(slots.map(({ id }, index) => [id, index])),
        html,
        varies: needed.some((audience) => volatile.has(audience)) || this.dependsOnMoment(document),
        signedOut: undefined,
      };
      this.byId.set(document.id, page);
      if (document.collection) this.itemPages.set(document.collection, page);
      else this.pages.set(document.slug, page);
      for (const [index, slot] of slots.entries())
        this.slots.set(`${document.id}/${slot.id}`, {
          page,
          slot,
          index,
          flats: once(() =>
            pageBranches(slot, document.content, of).map((branch) => new Flat(branch, catalogue, 'html')),
          ),
        });
    }
    for (const collection of this.library.collections) {
      const page = this.itemPages.get(collection.id);
      if (!page) continue;
      const own = this.library.itemsOf(collection.id);
      const index = once(() => new ItemSearch(collection, own, page, catalogue, settings.locale));
      this.itemWords.set(collection, { page, index });
    }
  }

  /** Makes everything that is made when it is first wanted. Throws where something can't be shown. */
  makeAll(): void {
    for (const page of this.byId.values()) page.html();
    for (const email of this.emails.values()) email();
    for (const { flats } of this.slots.values()) flats();
    for (const { index } of this.itemWords.values()) index();
  }

  /** Whether a page stands at an address, whoever may open it. */
  hasPage(slug: string): boolean {
    return this.pages.has(slug);
  }

  /** What stands at a page's address for a viewer. */
  page(slug: string, viewer: Viewer): Answer {
    const page = this.pages.get(slug);
    return page ? this.answer(page, viewer) : nothing;
  }

  /** A page by its id, such as the one that stands where none is. */
  pageById(id: string, viewer: Viewer): Answer {
    const page = this.byId.get(id);
    return page && !page.document.collection ? this.answer(page, viewer) : nothing;
  }

  /** The page of the item at an address such as `guides/moon`, for a viewer. */
  item(address: string, viewer: Viewer): Answer {
    const found = this.library.find(address);
    const page = found && this.itemPages.get(found.collection.id);
    if (!found || !page) return nothing;
    const { item, collection } = found;
    const shown = { ...viewer, item: this.library.valuesOf(item) };
    const standing = this.library.standing(collection, item, viewer);
    if (standing === 'open')
      return { kind: 'page', html: this.join(page, shown), sameForAll: false, notice: false };
    const access = page.document.access;
    const mayOpenPage = !access || this.decider.contains(access.audience, this.decider.facts(shown));
    if (standing === 'hidden' && mayOpenPage) return this.inPlaceOf(access?.otherwise ?? 'not-found', viewer);
    return this.inPlaceOf(access?.otherwise ?? 'sign-in', viewer);
  }

  /** The pages, items and feeds that a viewer may open, as addresses. */
  addresses(viewer: Viewer): string[] {
    const facts = this.decider.facts(viewer);
    const pages = [...this.pages.values()]
      .filter(({ document: { access } }) => !access || this.decider.contains(access.audience, facts))
      .map(({ document }) => `/site/${document.slug}`);
    const items = this.library.collections.flatMap((collection) =>
      this.itemPages.has(collection.id)
        ? this.library.openTo(collection, viewer).map((item) => itemAddress(collection, item))
        : [],
    );
    return [...pages, ...items];
  }

  /**
   * The pages and items that a viewer may open and that hold each of some words, as this viewer gets them; the first of
   * them, in the order of the site.
   *
   * @param words what is looked for, with blanks between the words
   * @param most how many are wanted
   */
  search(words: string, viewer: Viewer, most: number): { title: string; address: string }[] {
    const wanted = fold(words).split(/\s+/).filter(Boolean);
    if (wanted.length === 0) return [];
    const holds = (text: string) => {
      const folded = fold(text);
      return wanted.every((word) => folded.includes(word));
    };
    const found: { title: string; address: string }[] = [];
    const facts = this.decider.facts(viewer);
    for (const page of this.pages.values()) {
      const { access, name, slug } = page.document;
      if (access && !this.decider.contains(access.audience, facts)) continue;
      if (holds(`${name} ${wordsOfMain(this.join(page, viewer))}`))
        found.push({ title: name, address: `/site/${slug}` });
    }
    let read = 0;
    const standing = this.library.standings(viewer);
    for (const [collection, { page, index }] of this.itemWords) {
      const shownAs = (item: Item) => ({ ...viewer, item: this.library.valuesOf(item) });
      const audiences = [...audiencesOfDocument(page.document)];
      const decided = new Map<string, Int8Array>();
      const choicesOf = (item: Item) => {
        if (standing(collection, item) !== 'open') return undefined;
        const likeness = this.library.likeness(item, audiences);
        const choices =
          decided.get(likeness) ?? this.decider.decide(page.document.id, this.decider.facts(shownAs(item)));
        decided.set(likeness, choices);
        return ({ id }: Slot) => choices[page.slotAt.get(id) ?? -1] ?? everyoneElse;
      };
      for (const item of index().find(wanted, choicesOf)) {
        if (found.length >= most || read++ >= mostRead) return found;
        // The page itself has the last word, as within a line something may be shown to some only.
        if (holds(`${item.title} ${item.teaser} ${wordsOfMain(this.join(page, shownAs(item)))}`))
          found.push({ title: item.title, address: itemAddress(collection, item) });
      }
    }
    return found.slice(0, most);
  }

  /** Whether a viewer may open a place on the site; true for any that is no page or item. */
  mayOpen(address: string, viewer: Viewer): boolean {
    const path = placeOf(address);
    const found = this.library.find(path);
    if (found) return this.library.standing(found.collection, found.item, viewer) === 'open';
    const access = this.pages.get(path)?.document.access;
    return !access || this.decider.contains(access.audience, this.decider.facts(viewer));
  }

  /**
   * Whether a viewer may get a file: where a page or an item shows it to them; one that an email shows anybody, since mail
   * programs ask for it as nobody.
   */
  mayHaveFile(file: string, viewer: Viewer): boolean {
    if (this.mailed.has(file)) return true;
    for (const page of this.byId.values())
      for (const { node } of walkContent(page.document.content))
        if ('file' in node && node.file === file && this.mayBeShown(page, node.id, viewer)) return true;
    for (const collection of this.library.collections)
      for (const item of this.library.itemsOf(collection.id))
        if (
          Object.values(item.values).includes(file) &&
          this.library.standing(collection, item, viewer) === 'open'
        )
          return true;
    return false;
  }

  /** A form that a page shows to a viewer; undefined where there is none such. */
  form(documentId: string, blockId: string, viewer: Viewer): { form: FormBlock; slug: string } | undefined {
    const page = this.byId.get(documentId);
    if (!page) return undefined;
    const { content, slug } = page.document;
    for (const { node } of walkContent(content))
      if (node.kind === 'form' && node.id === blockId)
        return this.mayBeShown(page, node.id, viewer) ? { form: node, slug } : undefined;
    return undefined;
  }

  /**
   * What one slot of a page is for a viewer: its variant and the HTML; undefined where there is none, where its page or
   * collection is closed, and where it stands in something that the viewer does not get.
   */
  slot(key: string, viewer: Viewer): { variant: string | null; html: string; slot: Slot } | undefined {
    const found = this.slots.get(key);
    if (!found) return undefined;
    const { page, slot, index, flats } = found;
    const given = this.given(page.document.id, viewer, {});
    if (!this.isOpen(page, given.facts)) return undefined;
    const choiceOf = ({ id }: Slot) => given.choices[page.slotAt.get(id) ?? -1] ?? everyoneElse;
    if (!isShownIn(page.around.get(slot.id) ?? [], choiceOf)) return undefined;
    const choice = given.choices[index] ?? -1;
    const branches = flats();
    const flat = choice < 0 ? branches.at(-1) : branches[choice];
    return { variant: slot.variants[choice]?.id ?? null, html: flat?.join(given) ?? '', slot };
  }

  /** Every slot of every page that may stand elsewhere, by its key. */
  slotKeys(): { key: string; page: string; slot: string }[] {
    return [...this.slots].map(([key, { page, slot }]) => ({
      key,
      page: page.document.name,
      slot: slot.name,
    }));
  }

  /**
   * An email composed for a viewer. Throws where the snapshot has no such email.
   *
   * @param unsubscribe the recipient's own address to stop these emails
   * @param known what the recipient is recognised by when a link to the site is followed
   */
  email(documentId: string, viewer: Viewer, unsubscribe: string, known?: string): Message {
    const email = this.emails.get(documentId)?.();
    if (!email) throw new Error(`no email “${documentId}” in this snapshot`);
    const given = {
      ...this.given(documentId, viewer, { unsubscribe }),
      ...(known !== undefined && { known }),
    };
    return {
      subject: oneLine(email.subject.join(given)),
      html: `<!doctype html>\n${email.html.join(given)}`,
      text: email.text.join(given),
    };
  }

  /** Whether a page may be opened: by its own access, and of a page for items by that of their collection. */
  private isOpen({ document: { access, collection } }: FlatPage, facts: Facts): boolean {
    const closing = this.library.collections.find(({ id }) => id === collection)?.access ?? null;
    return [access?.audience ?? null, closing].every(
      (audience) => audience === null || this.decider.contains(audience, facts),
    );
  }

  /**
   * Whether a page can show a node to a viewer on some visit: a file, or the answers of a form, is asked for by another
   * request than the page was, which tells other things of the visit. All else is decided as ever. Of a page for items, one
   * that may be opened must show it.
   */
  private mayBeShown(page: FlatPage, node: string, viewer: Viewer): boolean {
    const collection = this.library.collections.find(({ id }) => id === page.document.collection);
    const viewers = collection
      ? this.library
          .openTo(collection, viewer)
          .map((item) => ({ ...viewer, item: this.library.valuesOf(item) }))
      : [viewer];
    const around = page.around.get(node) ?? [];
    return viewers.some((one) => {
      const facts = this.decider.facts(one);
      const can = (audience: string) => possible(inAudience(audience), facts, this.onAnyVisit);
      return (
        this.isOpen(page, facts) &&
        around.every(({ slot: { variants }, choice }) => {
          const own = variants[choice];
          const above = own ? variants.slice(0, choice) : variants;
          return (!own || can(own.audience).holds) && above.every(({ audience }) => can(audience).fails);
        })
      );
    });
  }

  private answer(page: FlatPage, viewer: Viewer): Answer {
    const { access } = page.document;
    if (access && !this.decider.contains(access.audience, this.decider.facts(viewer)))
      return this.inPlaceOf(access.otherwise, viewer);
    if (page.varies || viewer.contact !== null)
      return { kind: 'page', html: this.join(page, viewer), sameForAll: false, notice: false };
    page.signedOut ??= this.join(page, viewer);
    return { kind: 'page', html: page.signedOut, sameForAll: true, notice: false };
  }

  /** What stands in the place of something that a viewer may not open. */
  private inPlaceOf(otherwise: NonNullable<Document['access']>['otherwise'], viewer: Viewer): Answer {
    if (otherwise === 'not-found') return nothing;
    if (otherwise === 'sign-in') return viewer.signedIn ? { kind: 'closed' } : { kind: 'sign-in' };
    const page = this.byId.get(otherwise.page);
    // A notice that is itself closed, or gone, says nothing.
    if (!page || page.document.access || page.document.collection) return nothing;
    return { kind: 'page', html: this.join(page, viewer), sameForAll: false, notice: true };
  }

  private join(page: FlatPage, viewer: Viewer): string {
    return `<!doctype html>\n${page.html().join(this.given(page.document.id, viewer, {}))}`;
  }

  private given(documentId: string, viewer: Viewer, links: Given['links']): Given {
    const facts = this.decider.facts(viewer);
    return {
      facts,
      choices: this.decider.decide(documentId, facts),
      links,
      instant: viewer.instant,
      mayOpen: (address) => this.mayOpen(address, viewer),
      isIn: (audience) => this.decider.contains(audience, facts),
      entries: (list) => this.library.shown(list, viewer),
    };
  }

  private isVolatile(attribute: string): boolean {
    const source = this.decider.catalogue.get(attribute)?.source;
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

/** What is made when it is first asked for, and kept. */
function once<Made>(make: () => Made): () => Made {
  let made: { readonly value: Made } | undefined;
  return () => {
    made ??= { value: make() };
    return made.value;
  };
}

/** What a page is called in the browser's tab. */
function titleOf(
  { content, collection, name, slug }: Document,
  of: Parameters<typeof pageTitle>[1],
  settings: Snapshot['settings'],
): ReturnType<typeof pageTitle> {
  if (collection)
    return [
      { kind: 'merge', merge: of.catalogue.get('item-title'), attribute: 'item-title', fallback: name },
      ` · ${settings.name}`,
    ];
  const own = pageTitle(content, of);
  if (own.length > 0) return own;
  return slug === '' ? [settings.name] : [`${name} · ${settings.name}`];
}

function flatEmail(
  parts: EmailParts,
  catalogue: Decider['catalogue'],
  settings: Snapshot['settings'],
): FlatEmail {
  return {
    subject: new Flat(parts.subject, catalogue, 'text'),
    html: new Flat([emailDocument(parts, settings)], catalogue, 'html'),
    text: new Flat(parts.text, catalogue, 'text'),
  };
}

/** The place on the site that an address leads to, without its query and fragment. */
function placeOf(address: string): string {
  return address.replace(/[?#].*$/s, '').replace(/^\/site\//, '');
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

/** A header is one line: what a personal value brings in of line breaks becomes a space (RFC 5322, 2.2). */
export function oneLine(text: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is looked for
  return text.replace(/[\u0000-\u001f\u007f\u2028\u2029]+/g, ' ').trim();
}
