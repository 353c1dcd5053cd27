import { z } from 'zod';
import { attributeIdSchema } from '../attributes/attribute.ts';
import { conditionSchema } from '../conditions/condition.ts';
import { inlinesSchema, mergeLooks, textBlockSchema } from './text.ts';

/** Blocks that hold no other blocks, one schema a kind; see document.ts for those that do. */
const id = z.string().min(1).max(40);
const name = z.string().regex(/^[a-z0-9-]{1,60}$/);
/** The id of a file that was brought in. */
export const fileIdSchema = z.string().regex(/^[\w-]{6,40}$/);

export const headingSchema = z.object({
  kind: z.literal('heading'),
  id,
  level: z.union([z.literal(1), z.literal(2), z.literal(3)]),
  content: inlinesSchema,
});

export const textSchema = z.object({
  kind: z.literal('text'),
  id,
  content: z.array(textBlockSchema).max(2000),
});

export const pictureSchema = z.object({
  kind: z.literal('picture'),
  id,
  /** The name of a drawing of the library; of no effect where a file is given. */
  picture: name,
  file: fileIdSchema.nullable().optional(),
  alt: z.string().max(300),
});

export const buttonSchema = z.object({
  kind: z.literal('button'),
  id,
  label: inlinesSchema,
  address: z.string().max(2000),
});

/** One line of text without marks: an email's subject or preview line, a page's title. */
export const lineSchema = z.object({ kind: z.literal('line'), id, content: inlinesSchema });

export const dividerSchema = z.object({ kind: z.literal('divider'), id });

export const spacerSizes = ['small', 'medium', 'large'] as const;
export const spacerSchema = z.object({ kind: z.literal('spacer'), id, size: z.enum(spacerSizes) });

export const videoSchema = z.object({
  kind: z.literal('video'),
  id,
  file: fileIdSchema.nullable(),
  /** What it shows, in words. */
  caption: z.string().max(300),
});

export const quotationSchema = z.object({
  kind: z.literal('quotation'),
  id,
  content: inlinesSchema,
  /** Who said it. */
  by: z.string().max(200),
});

export const linkSchema = z.object({
  kind: z.literal('link'),
  id,
  label: inlinesSchema,
  address: z.string().max(2000),
});

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
  id,
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

/** A field of the item that the page is about. */
export const fieldSchema = z.object({ kind: z.literal('field'), id, attribute: attributeIdSchema });

export const formSchema = z.object({
  kind: z.literal('form'),
  id,
  /** Attributes of the contact that the answers fill. */
  fields: z
    .array(
      z.object({
        attribute: attributeIdSchema,
        label: z.string().max(200),
        required: z.boolean(),
        /** Which choices are offered; all of them when not given. */
        only: z.array(z.string().max(120)).max(500).optional(),
      }),
    )
    .max(40),
  submit: z.string().min(1).max(80),
  /** Where on the site one is taken after; the same page when empty. */
  next: z.string().max(200),
});

/** Sign in, or who is signed in with the way out. */
export const accountSchema = z.object({ kind: z.literal('account'), id });

/** Why a place is closed and what opens it: sign in where nobody is signed in, otherwise another address. */
export const noticeSchema = z.object({
  kind: z.literal('notice'),
  id,
  signedOut: z.string().max(500),
  signedIn: z.string().max(500),
  address: z.string().max(2000),
});

export const countdownSchema = z.object({
  kind: z.literal('countdown'),
  id,
  /** A local date and time of the site's zone, such as `2026-12-24T18:00`. */
  until: z.string().regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d$/, 'is not a date and time'),
  label: z.string().max(200),
  /** What stands there when it is over. */
  over: z.string().max(200),
});

/** HTML from elsewhere, sanitised when it is stored. */
export const htmlSchema = z.object({ kind: z.literal('html'), id, html: z.string().max(200_000) });

/** A piece of shared content, see shared.ts. */
export const sharedSchema = z.object({ kind: z.literal('shared'), id, document: z.string().max(64) });

export const plainBlockSchemas = [
  headingSchema,
  textSchema,
  pictureSchema,
  buttonSchema,
  lineSchema,
  dividerSchema,
  spacerSchema,
  videoSchema,
  quotationSchema,
  linkSchema,
  listSchema,
  fieldSchema,
  formSchema,
  accountSchema,
  noticeSchema,
  countdownSchema,
  htmlSchema,
  sharedSchema,
] as const;
export type PlainBlock = z.infer<(typeof plainBlockSchemas)[number]>;
export type ListBlock = z.infer<typeof listSchema>;
export type FormBlock = z.infer<typeof formSchema>;
