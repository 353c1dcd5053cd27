import type { Collection, Item } from '../../../core/collections/collection.ts';

/** Addresses that the site itself answers. */
const ownPlaces = new Set(['', 'sign-in', 'search', 'sitemap.xml']);

/** Whether there is something at a place on the site, as it is drafted. */
export function isPlace(
  place: string,
  documents: readonly { slug: string; kind: string; collection?: string | null | undefined }[],
  { collections, items }: { collections: readonly Collection[]; items: readonly Item[] },
): boolean {
  if (ownPlaces.has(place)) return true;
  const [slug = '', rest] = place.split('/', 2);
  if (rest === undefined)
    return documents.some((one) => one.kind === 'page' && !one.collection && one.slug === slug);
  const collection = collections.find((one) => one.slug === slug);
  if (!collection) return false;
  return rest === 'feed.xml' || items.some((item) => item.collection === collection.id && item.slug === rest);
}
