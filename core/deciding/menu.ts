import type { Access, Document } from '../documents/document.ts';
import type { MenuEntry, SiteSettings } from './release.ts';

/** A menu entry with its label for every audience. */
export type FullEntry = Exclude<MenuEntry, string>;

/** The long form of an entry; a plain entry shows the page's name to everyone. */
export function fullEntry(entry: MenuEntry): FullEntry {
  return typeof entry === 'string' ? { page: entry, variants: [], otherwise: '' } : entry;
}

/** The shortest form of an entry. */
export function briefEntry(entry: FullEntry): MenuEntry {
  const { page, variants, otherwise, entries } = entry;
  return page !== undefined && entries === undefined && variants.length === 0 && otherwise === ''
    ? page
    : entry;
}

/** The audiences that the menu refers to. */
export function audiencesOfMenu({ menu = [] }: Pick<SiteSettings, 'menu'>): string[] {
  return menu
    .map(fullEntry)
    .flatMap(({ variants, entries = [] }) => [
      ...variants.map(({ audience }) => audience),
      ...audiencesOfMenu({ menu: entries }),
    ]);
}

/** The addresses of the menu's entries that are links, not pages. */
export function addressesOfMenu({ menu = [] }: Pick<SiteSettings, 'menu'>): string[] {
  return menu
    .map(fullEntry)
    .flatMap(({ address, entries = [] }) => [
      ...(address === undefined ? [] : [address]),
      ...addressesOfMenu({ menu: entries }),
    ]);
}

/** The menu once a page's path has changed. */
export function withPath(menu: readonly MenuEntry[], before: string, after: string): MenuEntry[] {
  const path = (page: string) => (page === before ? after : page);
  const moved = <Entry extends { page?: string | undefined }>(entry: Entry): Entry =>
    entry.page === undefined ? entry : { ...entry, page: path(entry.page) };
  return menu.map((entry) => {
    if (typeof entry === 'string') return path(entry);
    const entries = entry.entries?.map((inner) => (typeof inner === 'string' ? path(inner) : moved(inner)));
    return { ...moved(entry), ...(entries && { entries }) };
  });
}

type MenuPage = Pick<Document, 'name' | 'slug' | 'access'>;

/** An entry of the menu as it stands on a site: where it leads, who may go there, and what it says. */
export interface SiteMenuEntry {
  /** The path of the page that it leads to, if it is one. */
  readonly slug: string | undefined;
  /** Undefined where it only holds others. */
  readonly address: string | undefined;
  /** Who may open the page that it leads to, also where its address is written out. */
  readonly access: Access | null;
  readonly name: string;
  /** What it says for each audience, null for nothing; the first that matches decides. */
  readonly variants: readonly { readonly audience: string; readonly label: string | null }[];
  readonly otherwise: string | null;
  /** The entries below it; undefined for an entry that is a link itself. */
  readonly entries: readonly SiteMenuEntry[] | undefined;
}

/** The site's menu; entries of pages that are gone are left out. Without a setting it leads to every page but the home page. */
export function siteMenu({ menu }: Pick<SiteSettings, 'menu'>, pages: readonly MenuPage[]): SiteMenuEntry[] {
  const wanted = menu ?? pages.filter(({ slug }) => slug !== '').map(({ slug }) => slug);
  return wanted.flatMap((entry) => siteEntry(fullEntry(entry), pages));
}

function siteEntry(entry: FullEntry, pages: readonly MenuPage[]): SiteMenuEntry[] {
  const below = entry.entries?.flatMap((inner) => siteEntry(fullEntry(inner), pages));
  const page = pages.find(({ slug }) => slug === entry.page);
  const ledTo = page ?? pages.find(({ slug }) => entry.address?.replace(/[?#].*$/s, '') === `/site/${slug}`);
  // What stands below an entry whose page is gone stays, in its place where nothing names it.
  if (entry.page !== undefined && !page && !(below && entry.name)) return below ?? [];
  const address = page ? `/site/${page.slug}` : entry.address;
  const name = entry.name || (page?.name ?? '');
  const said = (label: string | null) => (label === null ? null : label || name);
  return [
    {
      slug: page?.slug,
      address,
      access: ledTo?.access ?? null,
      name,
      variants: entry.variants.map(({ audience, label }) => ({ audience, label: said(label) })),
      otherwise: said(entry.otherwise),
      // One with a link of its own and nothing below it is a plain link.
      entries: below?.length === 0 && address !== undefined ? undefined : below,
    },
  ];
}
