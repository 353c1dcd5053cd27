import { z } from 'zod';
import { attributeIdSchema } from '../../attributes/attribute.ts';
import { conditionSchema } from '../../conditions/condition.ts';
import { mergeLooks } from '../text.ts';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that show items of collections.

/** What an entry of a list says besides its title: some words, and a field of the item after them. */
const remarkSchema = z.object({
  words: z.string().max(200),
  field: attributeIdSchema.nullable(),
  /** How the field is written; as the language of the site has it when not given. */
  look: z.enum(mergeLooks).nullish(),
});
export type Remark = z.infer<typeof remarkSchema>;

export const listLayouts = ['rows', 'cards'] as const;
/** Entries of a collection, each leading to its own page. */
export const listSchema = z.object({
  kind: z.literal('list'),
  ...blockFields,
  collection: z.string().max(64),
  layout: z.enum(listLayouts),
  /** Which entries; all that the viewer may see when null. May ask for fields of the item and for the viewer. */
  where: conditionSchema.nullable(),
  /** A field of the items, `title`, or `order` for the order they have in their collection. */
  sort: z.union([attributeIdSchema, z.literal('title'), z.literal('order')]),
  down: z.boolean(),
  most: z.number().int().min(1).max(500),
  /** What stands there for whom no entry is left. */
  empty: z.string().max(300),
  /**
   * What each entry says besides: of the first audience that the viewer is in, looking at that entry's item, otherwise
   * that for everyone else.
   */
  remarks: z
    .object({
      variants: z.array(remarkSchema.extend({ audience: z.string().min(1).max(64) })).max(26),
      otherwise: remarkSchema,
    })
    .optional(),
});
export type ListBlock = z.infer<typeof listSchema>;

export const list: BlockKind<ListBlock> = {
  fresh: (newId) => ({
    kind: 'list',
    id: newId(),
    collection: '',
    layout: 'cards',
    where: null,
    sort: 'order',
    down: false,
    most: 12,
    empty: 'Nothing here yet.',
  }),
  pageOnly: 'A list of items',
  audiences: ({ remarks }) => (remarks?.variants ?? []).map(({ audience }) => audience),
  conditions: ({ where }) => (where ? [where] : []),
  unreleasable({ collection, remarks, where }, surroundings) {
    const problems: string[] = [];
    if (!surroundings.hasCollection(collection))
      problems.push('A list has no collection, or one that is gone');
    if (remarks?.variants.some(({ audience }) => !surroundings.hasAudience(audience)))
      problems.push('The entries of a list say something to a deleted audience');
    for (const { field } of remarks ? [...remarks.variants, remarks.otherwise] : [])
      if (field !== null && !surroundings.catalogue.get(field))
        problems.push(`The entries of a list name a field that is gone: “${field}”`);
    for (const { message } of where ? surroundings.problemsIn(where) : []) problems.push(`A list ${message}`);
    return problems;
  },
};

/** A field of the item that the page is about. */
export const fieldSchema = z.object({
  kind: z.literal('field'),
  ...blockFields,
  attribute: attributeIdSchema,
});

export const field: BlockKind<z.infer<typeof fieldSchema>> = {
  fresh: (newId) => ({ kind: 'field', id: newId(), attribute: 'none' }),
  pageOnly: 'A field of an item',
  prints: ({ attribute }) => [attribute],
};
