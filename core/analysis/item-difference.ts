import { dequal } from 'dequal';
import { stringify } from 'safe-stable-stringify';
import { Catalogue } from '../attributes/catalogue.ts';
import { type Audience, audiencesBehind } from '../audiences/audience.ts';
import { type Collection, type Item, itemValues } from '../collections/collection.ts';
import { boundToItem } from '../conditions/bound-to-item.ts';
import { all, inAudience } from '../conditions/condition.ts';
import { isPublished } from '../deciding/library.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Document } from '../documents/document.ts';
import { type Pairing, pair } from './difference.ts';
import { areAlikeAroundItems } from './may-differ.ts';

/** The audience that stands for everything an item and its collection ask of who may open it. */
const mayOpen = 'may-open-the-item';

/**
 * An item before and after, as if it were a page of its own that says what its fields say; what audiences ask of the
 * item is answered. Undefined where nothing that bears on it changed: who may open it, whether it is published, what it
 * says.
 *
 * @param instant now, in milliseconds since 1970 UTC
 * @param views how often the item was opened
 */
export function pairItem(
  before: Snapshot | undefined,
  after: Snapshot,
  itemId: string,
  instant: number,
  views?: number,
): Pairing | undefined {
  const old = before && asPage(before, after, itemId, instant, views);
  const next = asPage(after, after, itemId, instant, views);
  const alike = old && dequal(old.documents, next.documents) && dequal(old.audiences, next.audiences);
  const isNowhere = (old?.documents.length ?? 0) === 0 && next.documents.length === 0;
  return alike || isNowhere ? undefined : pair(old, next, itemId);
}

/**
 * Every item that {@link pairItem} finds changed between two snapshots, those after first. Where nothing around the items
 * changed, only those that did themselves are looked at.
 *
 * @param instant now, in milliseconds since 1970 UTC
 * @param views how often each item was opened, by its id
 */
export function changedItems(
  before: Snapshot | undefined,
  after: Snapshot,
  instant: number,
  views: ReadonlyMap<string, number>,
): Pairing[] {
  const old = new Map(before?.items?.map((item) => [item.id, item]));
  const next = new Map(after.items?.map((item) => [item.id, item]));
  const isAlikeAround = before !== undefined && areAlikeAroundItems(before, after);
  return [...new Set([...next.keys(), ...old.keys()])].flatMap((id) =>
    isAlikeAround && dequal(old.get(id), next.get(id))
      ? []
      : (pairItem(before, after, id, instant, views.get(id)) ?? []),
  );
}

/** A snapshot with nothing in it but an item as a page, and the audiences behind who may open it. */
function asPage(
  of: Snapshot,
  after: Snapshot,
  itemId: string,
  instant: number,
  views: number | undefined,
): Snapshot {
  // What the settings change, they change on every page.
  const empty = { ...after, audiences: [], documents: [], collections: [], items: [] };
  const item = of.items?.find(({ id }) => id === itemId);
  const collection = of.collections?.find(({ id }) => id === item?.collection);
  if (!item || !collection || !isPublished(item, instant)) return empty;
  const asked = [collection.access, item.access].filter((audience) => audience !== null);
  const catalogue = new Catalogue(of.attributes, of.settings.zone);
  const audiences = audiencesNeeded(asked, of.audiences).map((audience) => ({
    ...audience,
    // Its name and what is kept beside it decide nothing.
    name: '',
    description: '',
    condition: boundToItem(audience.condition, itemValues(item, views), catalogue, instant),
  }));
  const gate: Audience = {
    id: mayOpen,
    name: '',
    description: '',
    condition: all(...asked.map(inAudience)),
  };
  return {
    ...empty,
    audiences: asked.length > 0 ? [...audiences, gate] : [],
    documents: [pageOf(item, collection, asked.length > 0)],
  };
}

function pageOf(item: Item, collection: Collection, isClosed: boolean): Document {
  const { id, title, teaser, values } = item;
  return {
    id,
    kind: 'page',
    name: title,
    slug: `${collection.slug}/${item.slug}`,
    content: {
      subject: [],
      preview: [],
      body: [{ kind: 'html', id: 'fields', html: stringify([teaser, values]) }],
    },
    // A locked item shows its teaser to the others; where it is not listed there is nothing to see.
    access: isClosed
      ? { audience: mayOpen, otherwise: collection.locked ? { page: teaser } : 'not-found' }
      : null,
  };
}

/** Some audiences with all that they build on. */
function audiencesNeeded(ids: readonly string[], audiences: readonly Audience[]): Audience[] {
  const byId = new Map(audiences.map((audience) => [audience.id, audience]));
  return [...new Set(ids.flatMap((id) => audiencesBehind(id, byId)))];
}
