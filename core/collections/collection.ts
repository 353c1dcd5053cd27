import { z } from 'zod';
import { type Attribute, attributeSchema } from '../attributes/attribute.ts';

const id = z.string().min(1).max(64);

/** An address on the site: lower-case letters, digits and single hyphens. */
export const addressSchema = z
  .string()
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'lower-case letters, digits and single hyphens')
  .max(80);

/** What a field of items is for: a value that conditions test and lists sort by, a picture, or longer text. */
export const fieldUses = ['value', 'picture', 'long-text'] as const;

export const collectionFieldSchema = z.object({
  /** An attribute of source `item`; pictures and longer text are of type `text`. */
  attribute: attributeSchema.refine(({ source }) => source === 'item', 'is not a field of an item'),
  use: z.enum(fieldUses),
});
export type CollectionField = z.infer<typeof collectionFieldSchema>;

/** Typed entries of one kind: guides, events, goods. */
export const collectionSchema = z.object({
  id,
  name: z.string().trim().min(1, 'A name is needed').max(120),
  /** The first part of its items' addresses. */
  slug: addressSchema,
  fields: z.array(collectionFieldSchema).max(60),
  /** Who may open its items; everybody where null. */
  access: z.string().max(64).nullable(),
  /** Whether items that a viewer may not open are listed as locked, with their teaser, or not at all. */
  locked: z.boolean(),
});
export type Collection = z.infer<typeof collectionSchema>;

/** Limits who sees an item in lists: only the members of an audience, or everyone but them. */
export const listedSchema = z.object({
  to: z.enum(['only', 'all-but']),
  audience: z.string().min(1).max(64),
});
export type Listed = z.infer<typeof listedSchema>;

export const itemSchema = z.object({
  id,
  collection: id,
  slug: addressSchema,
  title: z.string().trim().min(1, 'A title is needed').max(200),
  /** What may be shown of it to those who may not open it. */
  teaser: z.string().trim().max(500),
  values: z.record(z.string(), z.unknown()),
  /** Who may open it besides what its collection asks; everybody where null. */
  access: z.string().max(64).nullable(),
  /** Everybody where there is none. It can be opened and found all the same. */
  listed: listedSchema.nullish(),
  /** When it is published, as instants; open ended where null. The start is included, the end is not. */
  from: z.iso.datetime({ offset: true }).nullable(),
  until: z.iso.datetime({ offset: true }).nullable(),
  position: z.number().int(),
});
export type Item = z.infer<typeof itemSchema>;

/** The fields of some collections as attributes, for the catalogue. */
export function itemAttributes(collections: readonly Collection[]): Attribute[] {
  return collections.flatMap(({ fields }) => fields.map(({ attribute }) => attribute));
}

/**
 * What conditions and merge fields see of an item: its fields, its title and teaser, how often it was opened.
 *
 * @param views by everybody together
 */
export function itemValues(
  { values, title, teaser }: Pick<Item, 'values' | 'title' | 'teaser'>,
  views = 0,
): { [attribute: string]: unknown } {
  return {
    ...values,
    'item-title': title,
    ...(teaser !== '' && { 'item-teaser': teaser }),
    'item-views': views,
  };
}

/** The value of a built-in attribute of an item (title, teaser or views); undefined for any other attribute. */
export function itemFact(
  { title, teaser }: Pick<Item, 'title' | 'teaser'>,
  attribute: string,
  views = 0,
): unknown {
  if (attribute === 'item-title') return title;
  if (attribute === 'item-teaser') return teaser === '' ? undefined : teaser;
  return attribute === 'item-views' ? views : undefined;
}

export function itemAddress(collection: Pick<Collection, 'slug'>, item: Pick<Item, 'slug'>): string {
  return `/site/${collection.slug}/${item.slug}`;
}

/** The files that an item holds, by their ids. */
export function filesOf(item: Pick<Item, 'values'>, { fields }: Pick<Collection, 'fields'>): string[] {
  return fields.flatMap(({ attribute, use }) => {
    const value = use === 'picture' ? item.values[attribute.id] : undefined;
    return typeof value === 'string' && value !== '' ? [value] : [];
  });
}
