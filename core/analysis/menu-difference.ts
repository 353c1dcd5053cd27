import { fullEntry } from '../deciding/menu.ts';
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
  const wanted = settings.menu ?? pages.filter(({ slug }) => slug !== '').map(({ slug }) => slug);
  const body = wanted.map(fullEntry).flatMap(({ page: slug, variants, otherwise }, index): Node[] => {
    const page = pages.find((one) => one.slug === slug);
    if (!page) return [];
    const name = page.name;
    const entry = (label: string, id: string): Node => ({
      kind: 'html',
      id: `${index} ${id}`,
      html: JSON.stringify([slug, label || name]),
    });
    const rest = otherwise === null ? [] : [entry(otherwise, 'rest')];
    const shown: Node[] =
      variants.length === 0
        ? rest
        : [
            {
              kind: 'slot',
              id: `entry ${index}`,
              name,
              variants: variants.map(({ audience, label }, at) => ({
                id: `${index} ${at}`,
                audience,
                content: [entry(label, String(at))],
              })),
              otherwise: rest,
            },
          ];
    return page.access
      ? [
          {
            kind: 'slot',
            id: `gate ${index}`,
            name: `${name}, who may open it`,
            variants: [{ id: `gate ${index}`, audience: page.access.audience, content: shown }],
            otherwise: [],
          },
        ]
      : shown;
  });
  return { id: menuId, kind: 'page', name: menuName, slug: '', content: { subject: [], preview: [], body } };
}
