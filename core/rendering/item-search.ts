import type { Attribute, Value } from '../attributes/attribute.ts';
import type { Catalogue } from '../attributes/catalogue.ts';
import { formatValue } from '../attributes/format.ts';
import { readValue } from '../attributes/parse.ts';
import { fold } from '../attributes/text-folding.ts';
import type { Collection, Item } from '../collections/collection.ts';
import type { Around } from '../deciding/around.ts';
import { isShownIn } from '../deciding/around.ts';
import { type Document, type Slot, textOf, walkContent } from '../documents/document.ts';
import { mergeFieldsOf } from '../documents/text.ts';

interface Entry {
  readonly item: Item;
  /** Title and teaser, and what each field says, as texts are compared. */
  readonly always: string;
  readonly fields: ReadonlyMap<string, string>;
  readonly all: string;
}

/** The fields that a part of a page prints, and the slots around it. */
interface Printed {
  readonly around: readonly Around[];
  readonly fields: readonly string[];
}

/**
 * The words of the items of one collection, made once: what is looked for is found among thousands of items without making
 * a page of any.
 */
export class ItemSearch {
  private readonly entries: readonly Entry[];
  private readonly printed: readonly Printed[];

  /** @param page the page that shows each item, with the slots around each of its nodes */
  constructor(
    { fields }: Collection,
    items: readonly Item[],
    page: { readonly document: Document; readonly around: ReadonlyMap<string, readonly Around[]> },
    catalogue: Catalogue,
    locale: string,
  ) {
    const own = new Set(fields.map(({ attribute }) => attribute.id));
    this.entries = items.map((item) =>
      entryOf(
        item,
        fields.map(({ attribute }) => attribute),
        catalogue,
        locale,
      ),
    );
    this.printed = [...walkContent(page.document.content)].flatMap(({ node }) => {
      const named = [
        ...[...mergeFieldsOf(textOf(node))].map(({ attrs }) => attrs.attribute),
        ...(node.kind === 'field' ? [node.attribute] : []),
      ].filter((id) => own.has(id));
      return named.length === 0 ? [] : [{ around: page.around.get(node.id) ?? [], fields: named }];
    });
  }

  /**
   * The items in which each of some words is, in a field that their page prints by some choices, or may print.
   *
   * @param words as {@link fold} makes them
   * @param choicesOf what is chosen in each slot of the page for an item; undefined where the item may not be opened
   */
  *find(
    words: readonly string[],
    choicesOf: (item: Item) => ((slot: Slot) => number) | undefined,
  ): Generator<Item> {
    for (const { item, always, fields, all } of this.entries) {
      if (!words.every((word) => all.includes(word))) continue;
      const choiceOf = choicesOf(item);
      if (!choiceOf) continue;
      let text = always;
      for (const part of this.printed)
        if (isShownIn(part.around, choiceOf))
          for (const id of part.fields) text += ` ${fields.get(id) ?? ''}`;
      if (words.every((word) => text.includes(word))) yield item;
    }
  }
}

function entryOf(item: Item, attributes: readonly Attribute[], catalogue: Catalogue, locale: string): Entry {
  const always = fold(`${item.title} ${item.teaser}`);
  const fields = new Map(
    attributes.flatMap((attribute): [string, string][] => {
      const value: Value | undefined = readValue(attribute, item.values[attribute.id]);
      return value === undefined
        ? []
        : [[attribute.id, fold(formatValue(attribute, value, locale, catalogue.zone))]];
    }),
  );
  return { item, always, fields, all: [always, ...fields.values()].join(' ') };
}
