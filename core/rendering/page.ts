import type { Catalogue } from '../attributes/catalogue.ts';
import { type SiteMenuEntry, siteMenu } from '../deciding/menu.ts';
import type { SiteSettings } from '../deciding/release.ts';
import type { ScreenWidth } from '../documents/blocks/kind.ts';
import {
  type Content,
  type Document,
  type Node,
  type Slot,
  slotsOf,
  walkContent,
} from '../documents/document.ts';
import { type DrawBlock, drawingOf, nodesMarkup } from './blocks/blocks.ts';
import type { PageOf } from './blocks/drawing.ts';
import { accountPoint } from './blocks/people.ts';
import { element, type Markup, withInner } from './markup.ts';
import { inlineMarkup, linkAddress, type SlotPlaces, type TextStyle } from './text-markup.ts';

/** Default address of the folder with the site's own style, script and fonts. */
export const siteAssets = '/site-assets';

export interface Surrounding {
  readonly settings: SiteSettings;
  readonly catalogue: Catalogue;
  /** The pages a menu can lead to, each with who may open it. */
  readonly pages: readonly Pick<Document, 'name' | 'slug' | 'access'>[];
  /** The address of the folder of the site's own style, script and fonts. */
  readonly assets: string;
}

function pageDrawing(of: PageOf, places: SlotPlaces): DrawBlock {
  const style = { catalogue: of.catalogue, locale: of.locale, base: '', places, attributes: () => ({}) };
  return (block, inner) => {
    const markup = drawingOf(block).page(block, { of, style, inner });
    return block.screens ? onScreens(markup, block.screens) : markup;
  };
}

/** A block as it is shown on narrow or on wide screens only, by the style sheet. */
function onScreens(markup: readonly Markup[], screens: ScreenWidth): Markup[] {
  return markup.map((node) => {
    if (typeof node === 'string') return node;
    if (node.kind !== 'element') return withInner(node, (inner) => onScreens(inner, screens));
    const { class: own } = node.attributes;
    const name = typeof own === 'string' ? `${own} only-${screens}` : `only-${screens}`;
    return { ...node, attributes: { ...node.attributes, class: name } };
  });
}

/** The page's own part, without the site's head, menu and foot. */
export function pageBody(content: Content, of: PageOf): Markup[] {
  const places = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  return nodesMarkup(content.body, pageDrawing(of, places), places);
}

/** How many of a page's first blocks are in view at once on most screens. */
const blocksInView = 3;

/** The pictures that are in view when a page opens, by the ids of their blocks. */
export function picturesInView({ body }: Content): ReadonlySet<string> {
  const first = { subject: [], preview: [], body: body.slice(0, blocksInView) };
  return new Set([...walkContent(first)].flatMap(({ node }) => (node.kind === 'picture' ? [node.id] : [])));
}

/** What one slot of a page shows for each of its variants in order, and for everyone else last. */
export function pageBranches(slot: Slot, content: Content, of: PageOf): Markup[][] {
  const places = new Map(slotsOf(content).map((other, index) => [other.id, index]));
  const draw = pageDrawing(of, places);
  const branch = (nodes: readonly Node[]) => nodesMarkup(nodes, draw, places);
  return [...slot.variants.map((variant) => branch(variant.content)), branch(slot.otherwise)];
}

/** The page's own title, where it has one: plain words, some of which may differ. */
export function pageTitle(
  content: Content,
  { catalogue, locale }: Pick<PageOf, 'catalogue' | 'locale'>,
): Markup[] {
  const places = new Map(slotsOf(content).map((slot, index) => [slot.id, index]));
  const style: TextStyle = { catalogue, locale, base: '', places, attributes: () => ({}) };
  const draw: DrawBlock = (block) => (block.kind === 'line' ? inlineMarkup(block.content, style) : []);
  return nodesMarkup(content.subject, draw, places);
}

/**
 * The site's header, the page and the site's foot, as they stand inside `<body>`. On a narrow screen the menu is behind a
 * button (HTML standard, 6.12, the popover attribute).
 *
 * @param current the slug of the page itself, which the menu marks
 */
export function siteFrame(
  body: Markup[],
  { settings, pages, catalogue, current }: Omit<Surrounding, 'assets'> & { current?: string | undefined },
): Markup[] {
  const entries = siteMenu(settings, pages).flatMap((entry) => entryMarkup(entry, current));
  return [
    element('a', { class: 'site-skip', href: '#content' }, ['Skip to the content']),
    element('header', { class: 'site-head' }, [
      element('a', { class: 'site-name', href: '/site/' }, [settings.name]),
      ...(entries.length > 0 ? [menuButton()] : []),
      element('nav', { class: 'site-menu', 'aria-label': 'Site', id: 'site-menu', popover: '' }, entries),
      element('div', { class: 'site-account' }, [accountPoint(catalogue)]),
    ]),
    element('main', { class: 'site-main', id: 'content' }, body),
    element('footer', { class: 'site-foot' }, [
      [settings.name, settings.postalAddress].filter((part) => part !== '').join(' · '),
    ]),
  ];
}

/** An entry of the menu: a link, or a label that opens the entries below it. */
function entryMarkup(entry: SiteMenuEntry, current: string | undefined): Markup[] {
  const { variants, otherwise } = entry;
  const said = (label: string | null): Markup[] => {
    if (label === null) return [];
    if (!entry.entries) return linkMarkup(entry, label, current);
    const below = [
      ...linkMarkup(entry, label, current),
      ...entry.entries.flatMap((inner) => entryMarkup(inner, current)),
    ];
    const shown = element('details', { class: 'site-menu-more', name: 'site-menu' }, [
      element('summary', {}, [label]),
      element('div', { class: 'site-menu-below' }, below),
    ]);
    return [{ kind: 'filled', inner: below, shown: [shown] }];
  };
  if (variants.length === 0) return said(otherwise);
  return [
    {
      kind: 'audience',
      audiences: variants.map(({ audience }) => audience),
      shown: variants.map(({ label }) => said(label)),
      otherwise: said(otherwise),
    },
  ];
}

/** The link of an entry; none where it leads nowhere, or its viewer may not go there. */
function linkMarkup(
  { address = '', slug, access }: SiteMenuEntry,
  label: string,
  current: string | undefined,
): Markup[] {
  const href = linkAddress(address, '');
  if (href === undefined) return [];
  const isCurrent = slug !== undefined && slug === current;
  const link = [element('a', { href, ...(isCurrent && { 'aria-current': 'page' }) }, [label])];
  const isGuarded = access !== null || (slug === undefined && href.startsWith('/site/'));
  return isGuarded ? [{ kind: 'open', mayOpen: href, shown: link }] : link;
}

function menuButton(): Markup {
  return element('button', { class: 'site-menu-open', type: 'button', popovertarget: 'site-menu' }, ['Menu']);
}

/** A whole HTML document but for its doctype. */
export function siteDocument(
  title: Markup[],
  body: Markup[],
  { settings, assets }: Pick<Surrounding, 'settings' | 'assets'>,
): Markup {
  return element('html', { lang: settings.locale }, [
    element('head', {}, [
      element('meta', { charset: 'utf-8' }, []),
      element('meta', { name: 'viewport', content: 'width=device-width, initial-scale=1' }, []),
      element('title', {}, title),
      element('link', { rel: 'icon', href: '/site/icon.svg', type: 'image/svg+xml' }, []),
      ...fontsAhead(settings).map((font) =>
        element(
          'link',
          {
            rel: 'preload',
            as: 'font',
            type: 'font/woff2',
            crossorigin: '',
            href: `${assets}/fonts/${font}`,
          },
          [],
        ),
      ),
      element('link', { rel: 'stylesheet', href: `${assets}/site.css` }, []),
      ...(settings.theme ? [element('link', { rel: 'stylesheet', href: '/site/theme.css' }, [])] : []),
      element('script', { src: `${assets}/site.js`, defer: '' }, []),
    ]),
    element('body', {}, [element('div', { class: 'site' }, body)]),
  ]);
}

/** The fonts that nearly every page needs, loaded before the style sheet is read. */
function fontsAhead({ theme }: SiteSettings): string[] {
  const isDisplay = !theme || theme.headings === 'display';
  return [
    'instrument-sans-latin-wght-normal.woff2',
    ...(isDisplay ? ['bricolage-grotesque-latin-wght-normal.woff2'] : []),
  ];
}
