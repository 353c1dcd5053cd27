import { choicesOf } from '../attributes/attribute.ts';
import type { Facts, Viewer } from '../attributes/viewer.ts';
import type { Collection, Item } from '../collections/collection.ts';
import type { ListBlock } from '../documents/blocks/items.ts';
import { everyoneElse } from './decide.ts';
import { isPublished, type Library } from './library.ts';

/** A viewer's access to an item: it can be opened, is listed as locked, or is hidden. */
export type AccessLevel = 'open' | 'locked' | 'hidden';

export interface Entry {
  readonly item: Item;
  readonly locked: boolean;
  /** Index of the remark that the entry shows, or {@link everyoneElse}. */
  readonly remark: number;
}

/**
 * The library as one viewer sees it; access is decided before anything else. Create one for each request: each audience is
 * decided once, and once for all items that have the same values for the fields it tests.
 */
export class LibraryView {
  /** The viewer's values, without an item. */
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
   * The viewer's access to an item, by the access rules of its collection, of the item and of the page that shows it. An
   * audience with an error contains nobody, so it grants nothing.
   */
  accessLevel(collection: Collection, item: Item): AccessLevel {
    if (!isPublished(item, this.viewer.instant)) return 'hidden';
    const may = [collection.access, item.access, this.library.pageAccess.get(collection.id) ?? null].every(
      (audience) => audience === null || this.isIn(audience, item),
    );
    return may ? 'open' : collection.locked ? 'locked' : 'hidden';
  }

  /** Whether the viewer may open the collection at all, regardless of single items. */
  isOpen(collection: Collection): boolean {
    if (collection.locked) return true;
    return [collection.access, this.library.pageAccess.get(collection.id) ?? null].every((audience) => {
      if (audience === null) return true;
      // Access is then decided item by item.
      if (this.library.aboutItems.has(audience)) return this.openTo(collection).length > 0;
      return this.contains(audience);
    });
  }

  /** The items of a collection that the viewer may open, in the collection's order. */
  openTo(collection: Collection): Item[] {
    return this.library
      .itemsOf(collection.id)
      .filter((item) => this.accessLevel(collection, item) === 'open');
  }

  /** The entries that a list shows the viewer, sorted and limited as the list says. */
  entries(block: ListBlock): Entry[] {
    const collection = this.library.collections.find(({ id }) => id === block.collection);
    if (!collection) return [];
    const entries = this.library.itemsOf(collection.id).flatMap((item): Omit<Entry, 'remark'>[] => {
      const level = this.accessLevel(collection, item);
      const isShown = level !== 'hidden' && this.isListed(item) && this.isWanted(block, item);
      return isShown ? [{ item, locked: level === 'locked' }] : [];
    });
    return this.sorted(entries, block)
      .slice(0, block.most)
      .map((entry) => ({ ...entry, remark: this.remarkOf(block, entry.item) }));
  }

  /** The entries of a list in the form that rendering takes. */
  shown(block: ListBlock): { id: string; locked: boolean; remark: number }[] {
    return this.entries(block).map(({ item, locked, remark }) => ({ id: item.id, locked, remark }));
  }

  private remarkOf({ remarks }: ListBlock, item: Item): number {
    return remarks?.variants.findIndex(({ audience }) => this.isIn(audience, item)) ?? everyoneElse;
  }

  /** Whether lists show an item to the viewer. */
  private isListed(item: Item): boolean {
    const { listed } = item;
    return !listed || this.isIn(listed.audience, item) === (listed.to === 'only');
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
      // Items without a value come last in either direction.
      if (left === undefined || right === undefined)
        return Number(left === undefined) - Number(right === undefined);
      if (typeof left === 'number' && typeof right === 'number') return sign * (left - right);
      return sign * String(left).localeCompare(String(right));
    });
  }
}
