import { choicesOf } from '../attributes/attribute.ts';
import type { Facts, Viewer } from '../attributes/viewer.ts';
import type { Collection, Item } from '../collections/collection.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import { everyoneElse } from './decide.ts';
import { isPublished, type Library } from './library.ts';

/** What an item is to a viewer: to be opened, listed as locked, or not there at all. */
export type Standing = 'open' | 'locked' | 'hidden';

export interface Entry {
  readonly item: Item;
  readonly locked: boolean;
  /** Which of the list's remarks it says, or {@link everyoneElse}. */
  readonly remark: number;
}

/**
 * The library as one viewer sees it. Access is decided before anything else. Made once for a request: whatever asks, each
 * audience is decided once, and once for all items that are alike in what it asks of them.
 */
export class LibraryView {
  /** What is known of the viewer, without an item. */
  readonly facts: Facts;
  private readonly known = new Map<string, boolean>();

  constructor(
    private readonly library: Library,
    readonly viewer: Viewer,
  ) {
    this.facts = library.decider.facts(viewer);
  }

  /** Whether the viewer is in an audience. */
  contains(audience: string): boolean {
    return this.library.decider.contains(audience, this.facts);
  }

  /** The viewer looking at an item. */
  at(item: Item): Viewer {
    return { ...this.viewer, item: this.library.valuesOf(item) };
  }

  /**
   * What an item is to the viewer, by who may open its collection, itself and the page that shows it. An audience with an
   * error contains nobody, so that it opens nothing.
   */
  standing(collection: Collection, item: Item): Standing {
    if (!isPublished(item, this.viewer.instant)) return 'hidden';
    const may = [collection.access, item.access, this.library.pageAccess.get(collection.id) ?? null].every(
      (audience) => audience === null || this.isIn(audience, item),
    );
    return may ? 'open' : collection.locked ? 'locked' : 'hidden';
  }

  /** Whether the viewer may come to a collection at all, whichever of its items they may open. */
  isOpen(collection: Collection): boolean {
    if (collection.locked) return true;
    return [collection.access, this.library.pageAccess.get(collection.id) ?? null].every((audience) => {
      if (audience === null) return true;
      // Who may come is then decided for each item.
      if (this.library.aboutItems.has(audience)) return this.openTo(collection).length > 0;
      return this.contains(audience);
    });
  }

  /** The items of a collection that the viewer may open, in the collection's order. */
  openTo(collection: Collection): Item[] {
    return this.library.itemsOf(collection.id).filter((item) => this.standing(collection, item) === 'open');
  }

  /** What a list shows the viewer, in its order and up to its most. */
  entries(block: ListBlock): Entry[] {
    const collection = this.library.collections.find(({ id }) => id === block.collection);
    if (!collection) return [];
    const entries = this.library.itemsOf(collection.id).flatMap((item): Omit<Entry, 'remark'>[] => {
      const standing = this.standing(collection, item);
      return standing === 'hidden' || !this.isWanted(block, item)
        ? []
        : [{ item, locked: standing === 'locked' }];
    });
    return this.sorted(entries, block)
      .slice(0, block.most)
      .map((entry) => ({ ...entry, remark: this.remarkOf(block, entry.item) }));
  }

  /** The entries of a list as a rendering is given them. */
  shown(block: ListBlock): { id: string; locked: boolean; remark: number }[] {
    return this.entries(block).map(({ item, locked, remark }) => ({ id: item.id, locked, remark }));
  }

  private remarkOf({ remarks }: ListBlock, item: Item): number {
    return remarks?.variants.findIndex(({ audience }) => this.isIn(audience, item)) ?? everyoneElse;
  }

  /** Whether the viewer, looking at an item, is in an audience. */
  private isIn(audience: string, item: Item): boolean {
    if (!this.library.aboutItems.has(audience)) return this.contains(audience);
    const key = `${audience} ${this.library.likeness(item, [audience])}`;
    let found = this.known.get(key);
    if (found === undefined) {
      const { decider } = this.library;
      found = decider.contains(audience, decider.facts(this.at(item)));
      this.known.set(key, found);
    }
    return found;
  }

  private isWanted({ where }: ListBlock, item: Item): boolean {
    return where === null || this.library.meets(where, this.library.decider.facts(this.at(item)));
  }

  private sorted<E extends Pick<Entry, 'item'>>(entries: E[], { sort, down }: ListBlock): E[] {
    const sign = down ? -1 : 1;
    if (sort === 'order') return down ? entries.reverse() : entries;
    if (sort === 'title')
      return entries.sort((one, two) => sign * one.item.title.localeCompare(two.item.title));
    const attribute = this.library.decider.catalogue.get(sort);
    const places = new Map(attribute && choicesOf(attribute).map(({ id }, index) => [id, index]));
    const keyOf = ({ item }: E): string | number | undefined => {
      const value = this.library.valueOf(item, sort);
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
