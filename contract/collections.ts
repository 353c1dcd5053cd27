import { z } from 'zod';
import { addressSchema, collectionSchema, itemSchema } from '../core/collections/collection.ts';
import { namedSchema } from './addresses.ts';

export const listedCollectionSchema = collectionSchema.extend({
  revision: z.number(),
  /** How many items it has, and how many of them an anonymous visitor may open now. */
  items: z.number(),
  openToAll: z.number(),
  /** The page that shows each of its items; null where there is none yet. */
  page: z.object({ id: z.string(), name: z.string() }).nullable(),
});
export const listedCollectionsSchema = z.array(listedCollectionSchema);
export type ListedCollection = z.infer<typeof listedCollectionSchema>;

export const newCollectionSchema = z.object({
  name: collectionSchema.shape.name,
  slug: addressSchema,
});
/** Fields that are new get their ids from the server; those that are left out go, with their values. */
export const collectionChangeSchema = collectionSchema
  .omit({ id: true })
  .extend({ revision: z.number().int() });
export type CollectionChange = z.infer<typeof collectionChangeSchema>;

export const storedItemSchema = itemSchema.extend({ revision: z.number(), updatedAt: z.string() });
export type StoredItem = z.infer<typeof storedItemSchema>;
export const storedItemsSchema = z.array(storedItemSchema);

export const itemDraftSchema = itemSchema.omit({ id: true, collection: true, position: true });
export type ItemDraft = z.infer<typeof itemDraftSchema>;
export const itemChangeSchema = itemDraftSchema.extend({ revision: z.number().int() });
export const itemOrderSchema = z.object({ ids: z.array(z.string().max(64)).max(20_000) });

export const itemExportKinds = ['csv', 'json'] as const;
/** A file of items as text. `apply` says whether it is done or only tried. */
export const itemImportSchema = z.object({
  kind: z.enum(itemExportKinds),
  text: z.string().max(20_000_000),
  apply: z.boolean(),
});
export const itemImportReportSchema = z.object({
  added: z.number(),
  changed: z.number(),
  unchanged: z.number(),
  /** Rows left out, with the line of the file and why. */
  problems: z.array(z.object({ line: z.number(), message: z.string() })),
  applied: z.boolean(),
});
export type ItemImportReport = z.infer<typeof itemImportReportSchema>;

export const storedFileSchema = z.object({
  id: z.string(),
  name: z.string(),
  type: z.string(),
  size: z.number(),
});
export type StoredFile = z.infer<typeof storedFileSchema>;

/** All collections and items as they are drafted, for showing pages that draw on them. */
export const librarySchema = z.object({
  collections: z.array(collectionSchema),
  items: z.array(itemSchema),
  /** How often each item was opened so far, by its id; none where nobody did. */
  views: z.record(z.string(), z.number().int()),
});

/** Of which collection the items are exported, and as what. */
export const itemExportSchema = namedSchema.extend({ kind: z.enum(itemExportKinds) });
