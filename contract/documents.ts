import { z } from 'zod';
import {
  accessSchema,
  contentSchema,
  documentKinds,
  documentSchema,
  slugSchema,
} from '../core/documents/document.ts';
import { personSchema } from './people.ts';

export const storedDocumentSchema = documentSchema.extend({ revision: z.number(), updatedAt: z.string() });
export type StoredDocument = z.infer<typeof storedDocumentSchema>;

export const listedDocumentSchema = storedDocumentSchema.omit({ content: true }).extend({
  slots: z.number(),
  audiences: z.array(z.string()),
});
/** Which of all documents are listed, by their ids with commas between; all where it is not said. */
export const listQuerySchema = z.object({ ids: z.string().max(20_000).optional() });
export type ListedDocument = z.infer<typeof listedDocumentSchema>;

/** What is stored of a document after a change; its content only where that is not what was sent. */
export const savedDocumentSchema = storedDocumentSchema.partial({ content: true });
export type SavedDocument = z.infer<typeof savedDocumentSchema>;

export const newDocumentSchema = z.object({
  kind: z.enum(documentKinds),
  name: z.string().trim().min(1, 'A name is needed').max(120),
  slug: slugSchema,
});

/** A page written in HTML elsewhere. */
export const htmlPageSchema = newDocumentSchema
  .omit({ kind: true })
  .extend({ html: z.string().max(5_000_000) });
export const fromHtmlSchema = z.object({
  id: z.string(),
  /** What was left out, with how often. */
  dropped: z.array(z.object({ what: z.string(), count: z.number() })),
});

export const documentChangeSchema = z.object({
  revision: z.number().int(),
  name: z.string().trim().min(1, 'A name is needed').max(120),
  content: contentSchema,
  /** What is not given stays as it is. */
  slug: slugSchema.optional(),
  access: accessSchema.nullable().optional(),
  collection: z.string().max(64).nullable().optional(),
});
export type DocumentChange = z.infer<typeof documentChangeSchema>;

/** For each audience that a document uses, somebody who is in it, and how many contacts get each variant. */
export const castSchema = z.object({
  people: z.array(z.object({ audience: z.string(), person: personSchema.nullable(), count: z.number() })),
  /** For each slot in reading order: its variants from the top, everyone else last. */
  slots: z.array(
    z.object({
      slot: z.string(),
      outcomes: z.array(z.object({ count: z.number(), person: personSchema.nullable() })),
    }),
  ),
  /** The faces that contacts get today, as visible choices; `person` is one who gets it. */
  faces: z.array(z.object({ choices: z.array(z.number()), count: z.number(), person: personSchema })),
  total: z.number(),
});
export type Cast = z.infer<typeof castSchema>;

export const pictureSchema = z.object({ name: z.string(), alt: z.string() });
export type Picture = z.infer<typeof pictureSchema>;

/** What is asked of who would get what of a content, saved or not; a null instant is now. */
export const castRequestSchema = z.object({
  content: contentSchema,
  kind: z.enum(documentKinds).default('page'),
  instant: z.number().nullable(),
});

/** What a file is called that is sent as the body of a request. */
export const uploadQuerySchema = z.object({ name: z.string().min(1).max(255) });
