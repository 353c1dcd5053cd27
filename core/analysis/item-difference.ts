import { dequal } from 'dequal';
import { stringify } from 'safe-stable-stringify';
import { Catalogue } from '../attributes/catalogue.ts';
import { type Audience, audiencesBehind } from '../audiences/audience.ts';
import { type Collection, type Item, itemValues } from '../collections/collection.ts';
import { boundToItem } from '../conditions/bound-to-item.ts';
import { all, inAudience } from '../conditions/condition.ts';
import { isPublished } from '../deciding/library.ts';
import type { Snapshot } from '../deciding/release.ts';
import type { Node } from '../documents/document.ts';
import { type Closable, type Pairing, pairOf } from './difference.ts';
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
  const alike = old && dequal(old.page, next.page) && dequal(old.around.audiences, next.around.audiences);
  const isNowhere = !old?.page && !next.page;
  return alike || isNowhere ? undefined : pairOf(old?.page, next.page, old?.around, next.around);
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

/** An item as a page; undefined where it is not published. */
interface ItemPage {
  readonly page: Closable | undefined;
  /** The settings, and the audiences that decide who can open the item and who sees it in lists. */
  readonly around: Snapshot;
}

function asPage(
  of: Snapshot,
  after: Snapshot,
  itemId: string,
  instant: number,
  views: number | undefined,
): ItemPage {
  // What the settings change, they change on every page.
  const empty = { ...after, audiences: [], documents: [], collections: [], items: [] };
  const item = of.items?.find(({ id }) => id === itemId);
  const collection = of.collections?.find(({ id }) => id === item?.collection);
  if (!item || !collection || !isPublished(item, instant)) return { page: undefined, around: empty };
  const asked = [collection.access, item.access].filter((audience) => audience !== null);
  const needed = item.listed ? [...asked, item.listed.audience] : asked;
  const catalogue = new Catalogue(of.attributes, of.settings.zone);
  const audiences = audiencesNeeded(needed, of.audiences).map((audience) => ({
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
  const isClosed = asked.length > 0;
  return {
    page: pageOf(item, collection, isClosed),
    around: { ...empty, audiences: isClosed ? [...audiences, gate] : audiences },
  };
}

function pageOf(item: Item, collection: Collection, isClosed: boolean): Closable {
  const { id, title, teaser, values, listed } = item;
  return {
    id,
    kind: 'page',
    name: title,
    slug: `${collection.slug}/${item.slug}`,
    content: {
      subject: [],
      preview: [],
      body: [
        { kind: 'html', id: 'fields', html: stringify([teaser, values]) },
        ...inLists(listed, 'open', ''),
      ],
    },
    // A locked item shows its teaser to the others, in lists; where it is not locked there is nothing to see.
    ...(isClosed && {
      access: { audience: mayOpen, otherwise: collection.locked ? 'sign-in' : 'not-found' },
      ...(collection.locked && { closed: inLists(listed, 'locked', teaser) }),
    }),
  };
}

/** The item's entry in lists, as a slot where it is listed for some viewers only. */
function inLists(listed: Item['listed'], level: 'open' | 'locked', html: string): Node[] {
  const entry: Node = { kind: 'html', id: `${level} entry`, html };
  if (!listed) return [entry];
  const [shown, otherwise] = listed.to === 'only' ? [[entry], []] : [[], [entry]];
  return [
    {
      kind: 'slot',
      id: `${level} in lists`,
      name: 'In lists',
      variants: [{ id: `${level} listed`, audience: listed.audience, content: shown }],
      otherwise,
    },
  ];
}

/** Some audiences with all that they build on. */
function audiencesNeeded(ids: readonly string[], audiences: readonly Audience[]): Audience[] {
  const byId = new Map(audiences.map((audience) => [audience.id, audience]));
  return [...new Set(ids.flatMap((id) => audiencesBehind(id, byId)))];
}
