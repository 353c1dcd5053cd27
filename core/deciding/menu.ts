import type { MenuEntry, SiteSettings } from './release.ts';

/** A menu entry with its label for every audience. */
export type FullEntry = Exclude<MenuEntry, string>;

/** The long form of an entry; a plain entry shows the page's name to everyone. */
export function fullEntry(entry: MenuEntry): FullEntry {
  return typeof entry === 'string' ? { page: entry, variants: [], otherwise: '' } : entry;
}

/** The shortest form of an entry. */
export function briefEntry(entry: FullEntry): MenuEntry {
  return entry.variants.length === 0 && entry.otherwise === '' ? entry.page : entry;
}

/** The audiences that the menu refers to. */
export function audiencesOfMenu({ menu = [] }: Pick<SiteSettings, 'menu'>): string[] {
  return menu.flatMap((entry) => fullEntry(entry).variants.map(({ audience }) => audience));
}
