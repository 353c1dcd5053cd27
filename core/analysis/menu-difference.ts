import { type SiteMenuEntry, siteMenu } from '../deciding/menu.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Document, Node } from '../documents/document.ts';
import { type Pairing, pairOf } from './difference.ts';

export const menuId = 'menu';
export const menuName = 'The site’s menu';

/**
 * The menu of two snapshots side by side, as if it were a page of its own: an entry that differs is a slot, and one to a
 * page that only some may open is a slot around it.
 */
export function pairMenu(
  before: Snapshot | undefined,
  after: Snapshot,
  changed?: ReadonlySet<string>,
): Pairing {
  return pairOf(before && menuOf(before), menuOf(after), before && plain(before), plain(after), changed);
}

/** A snapshot whose settings put nothing else on what they frame. */
function plain(snapshot: Snapshot): Snapshot {
  const { zone, locale } = snapshot.settings;
  return {
    ...snapshot,
    settings: { name: '-', zone, locale, postalAddress: '-', fromAddress: 'menu@example.org' },
  };
}

function menuOf({ settings, documents }: Snapshot): Document {
  const pages = documents.filter(({ kind, collection }) => kind === 'page' && !collection);
  const body = siteMenu(settings, pages).flatMap((entry, index) => entryNodes(entry, [], String(index)));
  return { id: menuId, kind: 'page', name: menuName, slug: '', content: { subject: [], preview: [], body } };
}

/**
 * An entry as nodes. Each link carries the label of the entry above it, which is there only where one of its links is.
 *
 * @param above what the entry above says
 * @param id the place of the entry in the menu, and of the variant of the one above
 */
function entryNodes(entry: SiteMenuEntry, above: readonly string[], id: string): Node[] {
  const { name, variants, otherwise, entries = [] } = entry;
  const said = (label: string | null, choice: string): Node[] => {
    if (label === null) return [];
    const words = [...above, label];
    return [
      ...linkNodes(entry, words, `${id} ${choice}`),
      ...entries.flatMap((inner, index) => entryNodes(inner, words, `${id} ${choice} ${index}`)),
    ];
  };
  if (variants.length === 0) return said(otherwise, 'rest');
  return [
    {
      kind: 'slot',
      id: `entry ${id}`,
      name: name || menuName,
      variants: variants.map(({ audience, label }, at) => ({
        id: `${id} ${at}`,
        audience,
        content: said(label, String(at)),
      })),
      otherwise: said(otherwise, 'rest'),
    },
  ];
}

function linkNodes({ address, access, name }: SiteMenuEntry, words: readonly string[], id: string): Node[] {
  if (address === undefined) return [];
  const link: Node = { kind: 'html', id: `link ${id}`, html: JSON.stringify([address, ...words]) };
  if (!access) return [link];
  return [
    {
      kind: 'slot',
      id: `gate ${id}`,
      name: `${name}, who may open it`,
      variants: [{ id: `gate ${id}`, audience: access.audience, content: [link] }],
      otherwise: [],
    },
  ];
}
