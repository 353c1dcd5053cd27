import { choicesOf } from '../attributes/attribute.ts';
import type { Facts, Viewer } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { type Collection, type Item, itemFact, itemValues } from '../collections/collection.ts';
import { attributesIn, audiencesIn, type Condition } from '../conditions/condition.ts';
import type { Step } from '../conditions/program.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import { type Decider, everyoneElse } from './decide.ts';

/** What an item is to a viewer: to be opened, listed as locked, or not there at all. */
export type Standing = 'open' | 'locked' | 'hidden';

export interface Entry {
  readonly item: Item;
  readonly locked: boolean;
  /** Which of the list's remarks it says, or {@link everyoneElse}. */
  readonly remark: number;
}

/** The items of a snapshot with who may open them. Access is decided before anything else, for one viewer at a time. */
export class Library {
  readonly collections: readonly Collection[];
  private readonly items: ReadonlyMap<string, readonly Item[]>;
  private readonly byAddress = new Map<string, { collection: Collection; item: Item }>();
  /** Who may open the page that shows the items of a collection, which is who may open any of them. */
  private readonly pageAccess: ReadonlyMap<string, string>;
  /** Audiences that ask for fields of an item, so that they are decided for each item anew. */
  private readonly aboutItems: ReadonlySet<string>;
  /** What each of those asks of an item, directly or through others. */
  private readonly askedOfItems: ReadonlyMap<string, readonly string[]>;
  private readonly wanted = new WeakMap<Condition, Step>();

  /** @param views how often each item was opened, by its id; nowhere yet where not given */
  constructor(
    private readonly decider: Decider,
    private readonly views: ReadonlyMap<string, number> = new Map(),
  ) {
    const { collections = [], items = [], audiences, documents } = decider.snapshot;
    this.pageAccess = new Map(
      documents.flatMap(({ kind, collection, access }) =>
        kind === 'page' && collection && access ? [[collection, access.audience]] : [],
      ),
    );
    this.collections = collections;
    this.items = new Map(
      collections.map(({ id }) => [
        id,
        items.filter((item) => item.collection === id).sort((one, two) => one.position - two.position),
      ]),
    );
    for (const collection of collections)
      for (const item of this.items.get(collection.id) ?? [])
        this.byAddress.set(`${collection.slug}/${item.slug}`, { collection, item });
    const isOfItems = (attribute: string) => decider.catalogue.get(attribute)?.source === 'item';
    this.aboutItems = audiencesAbout(audiences, isOfItems);
    const conditions = new Map(audiences.map(({ id, condition }) => [id, condition]));
    this.askedOfItems = new Map(
      [...this.aboutItems].map((id) => [id, [...attributesAsked(id, conditions)].filter(isOfItems)]),
    );
  }

  /** The item at an address below the site's root, such as `guides/moon`. */
  find(address: string): { collection: Collection; item: Item } | undefined {
    return this.byAddress.get(address);
  }

  /** What conditions and merge fields see of an item. */
  valuesOf(item: Item): { [attribute: string]: unknown } {
    return itemValues(item, this.views.get(item.id));
  }

  /** What some audiences ask of an item, as one text: items with the same one are the same to all of them. */
  likeness(item: Item, audiences: Iterable<string>): string {
    const asked: unknown[] = [];
    for (const audience of audiences)
      for (const attribute of this.askedOfItems.get(audience) ?? [])
        asked.push(this.valueOf(item, attribute));
    return asked.length === 0 ? '' : JSON.stringify(asked);
  }

  private valueOf(item: Item, attribute: string): unknown {
    return attribute in item.values
      ? item.values[attribute]
      : itemFact(item, attribute, this.views.get(item.id));
  }

  itemsOf(collectionId: string): readonly Item[] {
    return this.items.get(collectionId) ?? [];
  }

  /** What an item is to a viewer, by who may open its collection, itself and the page that shows it. An audience with an error contains nobody, so that it opens nothing. */
  standing(collection: Collection, item: Item, viewer: Viewer): Standing {
    return this.standings(viewer)(collection, item);
  }

  /** As {@link standing}, for many items: those that are alike in what is asked of them are decided once. */
  standings(viewer: Viewer): (collection: Collection, item: Item) => Standing {
    const facts = this.decider.facts(viewer);
    const known = new Map<string, boolean>();
    const isIn = (audience: string, item: Item): boolean => {
      const key = `${audience} ${this.likeness(item, [audience])}`;
      let found = known.get(key);
      if (found === undefined) {
        found = this.isIn(audience, item, viewer, facts);
        known.set(key, found);
      }
      return found;
    };
    return (collection, item) => this.standingBy(collection, item, viewer.instant, isIn);
  }

  private standingBy(
    collection: Collection,
    item: Item,
    instant: number,
    isIn: (audience: string, item: Item) => boolean,
  ): Standing {
    if (!isPublished(item, instant)) return 'hidden';
    const may = [collection.access, item.access, this.pageAccess.get(collection.id) ?? null].every(
      (audience) => audience === null || isIn(audience, item),
    );
    return may ? 'open' : collection.locked ? 'locked' : 'hidden';
  }

  /** Whether a viewer may come to a collection at all, whichever of its items they may open. */
  isOpen(collection: Collection, viewer: Viewer): boolean {
    if (collection.locked) return true;
    const facts = this.decider.facts(viewer);
    return [collection.access, this.pageAccess.get(collection.id) ?? null].every((audience) => {
      if (audience === null) return true;
      // Who may come is then decided for each item.
      if (this.aboutItems.has(audience)) return this.openTo(collection, viewer).length > 0;
      return this.decider.contains(audience, facts);
    });
  }

  /** The items of a collection that a viewer may open, in the collection's order. */
  openTo(collection: Collection, viewer: Viewer): Item[] {
    const standing = this.standings(viewer);
    return this.itemsOf(collection.id).filter((item) => standing(collection, item) === 'open');
  }

  /** What a list shows a viewer, in its order and up to its most. */
  entries(block: ListBlock, viewer: Viewer): Entry[] {
    const collection = this.collections.find(({ id }) => id === block.collection);
    if (!collection) return [];
    const facts = this.decider.facts(viewer);
    const standingOf = this.standings(viewer);
    const entries = this.itemsOf(collection.id).flatMap((item): Omit<Entry, 'remark'>[] => {
      const standing = standingOf(collection, item);
      return standing === 'hidden' || !this.isWanted(block, item, viewer)
        ? []
        : [{ item, locked: standing === 'locked' }];
    });
    return this.sorted(entries, block)
      .slice(0, block.most)
      .map((entry) => ({ ...entry, remark: this.remarkOf(block, entry.item, viewer, facts) }));
  }

  /** The entries of a list as a rendering is given them. */
  shown(block: ListBlock, viewer: Viewer): { id: string; locked: boolean; remark: number }[] {
    return this.entries(block, viewer).map(({ item, locked, remark }) => ({ id: item.id, locked, remark }));
  }

  private remarkOf({ remarks }: ListBlock, item: Item, viewer: Viewer, facts: Facts): number {
    return (
      remarks?.variants.findIndex(({ audience }) => this.isIn(audience, item, viewer, facts)) ?? everyoneElse
    );
  }

  private isIn(audience: string, item: Item, viewer: Viewer, facts: Facts): boolean {
    return this.decider.contains(
      audience,
      this.aboutItems.has(audience) ? this.decider.facts({ ...viewer, item: this.valuesOf(item) }) : facts,
    );
  }

  private isWanted({ where }: ListBlock, item: Item, viewer: Viewer): boolean {
    if (!where) return true;
    const { membership } = this.decider;
    let start = this.wanted.get(where);
    if (!start) {
      start = membership.write(where);
      this.wanted.set(where, start);
    }
    membership.lookAs(this.decider.facts({ ...viewer, item: this.valuesOf(item) }));
    return membership.meets(start);
  }

  private sorted<E extends Pick<Entry, 'item'>>(entries: E[], { sort, down }: ListBlock): E[] {
    const sign = down ? -1 : 1;
    if (sort === 'order') return down ? entries.reverse() : entries;
    if (sort === 'title')
      return entries.sort((one, two) => sign * one.item.title.localeCompare(two.item.title));
    const attribute = this.decider.catalogue.get(sort);
    const places = new Map(attribute && choicesOf(attribute).map(({ id }, index) => [id, index]));
    const keyOf = ({ item }: E): string | number | undefined => {
      const value = this.valueOf(item, sort);
      if (typeof value === 'number') return value;
      return typeof value === 'string' ? (places.get(value) ?? value) : undefined;
    };
    return entries.sort((one, two) => {
      const [left, right] = [keyOf(one), keyOf(two)];
      // Who has no value comes last, whichever way it goes.
      if (left === undefined || right === undefined)
        return Number(left === undefined) - Number(right === undefined);
      if (typeof left === 'number' && typeof right === 'number') return sign * (left - right);
      return sign * String(left).localeCompare(String(right));
    });
  }
}

/** Whether an item is published at an instant, in milliseconds since 1970 UTC. */
export function isPublished({ from, until }: Pick<Item, 'from' | 'until'>, instant: number): boolean {
  return (from === null || Date.parse(from) <= instant) && (until === null || instant < Date.parse(until));
}

/** Every attribute that an audience asks for, directly or through others. */
function attributesAsked(audience: string, conditions: ReadonlyMap<string, Condition>): Set<string> {
  const asked = new Set<string>();
  const reached = new Set([audience]);
  for (const id of reached) {
    const condition = conditions.get(id);
    if (!condition) continue;
    for (const attribute of attributesIn(condition)) asked.add(attribute);
    for (const other of audiencesIn(condition)) reached.add(other);
  }
  return asked;
}

/** The audiences that ask for attributes of a kind, directly or through others. */
export function audiencesAbout(
  audiences: readonly Audience[],
  is: (attribute: string) => boolean,
): ReadonlySet<string> {
  const found = new Set<string>();
  for (let spread = true; spread; ) {
    spread = false;
    for (const { id, condition } of audiences) {
      if (found.has(id)) continue;
      const asks =
        [...attributesIn(condition)].some(is) || [...audiencesIn(condition)].some((one) => found.has(one));
      if (!asks) continue;
      found.add(id);
      spread = true;
    }
  }
  return found;
}
