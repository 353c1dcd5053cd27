import type { Facts } from '../attributes/viewer.ts';
import type { Audience } from '../audiences/audience.ts';
import { type Collection, type Item, itemFact, itemValues } from '../collections/collection.ts';
import { attributesIn, audiencesIn, type Condition } from '../conditions/condition.ts';
import type { Step } from '../conditions/program.ts';
import type { Decider } from './decide.ts';

/** The items of a snapshot and the rules for opening them; library-view.ts applies the rules to one viewer. */
export class Library {
  readonly collections: readonly Collection[];
  private readonly items: ReadonlyMap<string, readonly Item[]>;
  private readonly byAddress = new Map<string, { collection: Collection; item: Item }>();
  /** Access to the page that shows a collection's items; it limits access to every item. */
  readonly pageAccess: ReadonlyMap<string, string>;
  /** Audiences that test fields of an item, which have to be decided item by item. */
  readonly aboutItems: ReadonlySet<string>;
  /** The item fields that each of those tests, directly or through other audiences. */
  private readonly askedOfItems: ReadonlyMap<string, readonly string[]>;
  private readonly wanted = new WeakMap<Condition, Step>();

  /** @param views how often each item was opened, by item id; all zero if not given */
  constructor(
    readonly decider: Decider,
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

  /** The values of an item that conditions and merge fields can use. */
  valuesOf(item: Item): { [attribute: string]: unknown } {
    return itemValues(item, this.views.get(item.id));
  }

  /** A key of an item's values for some audiences: items with the same key are in the same ones of them. */
  likeness(item: Item, audiences: Iterable<string>): string {
    const asked: unknown[] = [];
    for (const audience of audiences)
      for (const attribute of this.askedOfItems.get(audience) ?? [])
        asked.push(this.valueOf(item, attribute));
    return asked.length === 0 ? '' : JSON.stringify(asked);
  }

  valueOf(item: Item, attribute: string): unknown {
    return attribute in item.values
      ? item.values[attribute]
      : itemFact(item, attribute, this.views.get(item.id));
  }

  /** Whether an item and a viewer together match the condition of a list. */
  meets(condition: Condition, facts: Facts): boolean {
    const { membership } = this.decider;
    let start = this.wanted.get(condition);
    if (!start) {
      start = membership.write(condition);
      this.wanted.set(condition, start);
    }
    membership.lookAs(facts);
    return membership.meets(start);
  }

  itemsOf(collectionId: string): readonly Item[] {
    return this.items.get(collectionId) ?? [];
  }
}

/** Whether an item is published at an instant, in milliseconds since 1970 UTC. */
export function isPublished({ from, until }: Pick<Item, 'from' | 'until'>, instant: number): boolean {
  return (from === null || Date.parse(from) <= instant) && (until === null || instant < Date.parse(until));
}

/** Every attribute that an audience tests, directly or through other audiences. */
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

/** The audiences that test attributes of a source, directly or through other audiences. */
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
