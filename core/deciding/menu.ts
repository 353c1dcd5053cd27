import type { MenuEntry, SiteSettings } from './release.ts';

/** An entry of the menu with all that it can say. */
export type FullEntry = Exclude<MenuEntry, string>;

/** An entry as one that can differ; a plain one says its page's name to everybody. */
export function fullEntry(entry: MenuEntry): FullEntry {
  return typeof entry === 'string' ? { page: entry, variants: [], otherwise: '' } : entry;
}

/** An entry as briefly as it can be written. */
export function briefEntry(entry: FullEntry): MenuEntry {
  return entry.variants.length === 0 && entry.otherwise === '' ? entry.page : entry;
}

/** The audiences that the menu asks for. */
export function audiencesOfMenu({ menu = [] }: Pick<SiteSettings, 'menu'>): string[] {
  return menu.flatMap((entry) => fullEntry(entry).variants.map(({ audience }) => audience));
}
