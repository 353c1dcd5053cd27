import { z } from 'zod';
import { attributeIdSchema, attributeSchema } from '../core/attributes/attribute.ts';
import { conditionSchema } from '../core/conditions/condition.ts';
import { exportKinds } from '../core/exchange/export-kinds.ts';

export const attributesSchema = z.array(attributeSchema);

export const personSchema = z.object({
  id: z.number(),
  name: z.string(),
  email: z.string(),
  values: z.record(z.string(), z.unknown()),
  hasAccount: z.boolean(),
});
export type PersonRecord = z.infer<typeof personSchema>;

/** What a contact gets of one released page or email. */
export const seenSchema = z.object({
  document: z.string(),
  kind: z.enum(['page', 'email']),
  name: z.string(),
  /** Its slots in order: the place of the variant, -1 for what everyone else gets, and its first words. */
  slots: z.array(z.object({ name: z.string(), variant: z.number(), words: z.string() })),
});
export type Seen = z.infer<typeof seenSchema>;

export const contactSchema = personSchema.extend({
  externalId: z.string().nullable(),
  unsubscribedAt: z.string().nullable(),
  updatedAt: z.string(),
});
export type Contact = z.infer<typeof contactSchema>;

/** Values to be stored, null for none any more; `updatedAt` as it was when the contact was read. */
export const contactChangeSchema = z.object({
  values: z.record(attributeIdSchema, z.unknown()).default({}),
  mail: z.boolean().optional(),
  updatedAt: z.string(),
});
export type ContactChange = z.infer<typeof contactChangeSchema>;

/** Somebody who is added by hand. */
export const newContactSchema = z.object({
  email: z.string().trim().min(1, 'An email address is needed').max(254),
  values: z.record(attributeIdSchema, z.unknown()).default({}),
});
export type NewContact = z.infer<typeof newContactSchema>;

/** Two records of one person become one: this one, with the other's value for the attributes that are named. */
export const mergeRequestSchema = z.object({
  other: z.number().int().min(1),
  fromOther: z.array(attributeIdSchema).max(1000),
});

/** What was erased with a contact. */
export const erasedSchema = z.object({
  changes: z.number(),
  messages: z.number(),
  deliveries: z.number(),
  account: z.boolean(),
  files: z.number(),
});

export const pageSize = 50;
/** A page of contacts. `where` is a condition as JSON; `audience` the id of an audience. */
export const contactQuerySchema = z.object({
  search: z.string().max(200).default(''),
  sort: z.union([z.literal('name'), attributeIdSchema]).default('name'),
  direction: z.enum(['up', 'down']).default('up'),
  page: z.coerce.number().int().min(0).max(1_000_000).default(0),
  audience: z.string().max(64).optional(),
  /** Only those who came with an import, or were changed by it. */
  import: z.coerce.number().int().min(1).optional(),
  where: z
    .string()
    .max(20_000)
    .transform((text, context) => {
      try {
        return JSON.parse(text) as unknown;
      } catch {
        context.addIssue({ code: 'custom', message: 'is not JSON' });
        return z.NEVER;
      }
    })
    .pipe(conditionSchema)
    .optional(),
});
export type ContactQuery = z.infer<typeof contactQuerySchema>;

export const contactPageSchema = z.object({
  contacts: z.array(personSchema),
  /** How many match, and how many there are. */
  matching: z.number(),
  total: z.number(),
});

/** The values that an attribute really has among the contacts, most frequent first. */
export const valuesSchema = z.object({
  lacking: z.number(),
  values: z.array(z.object({ value: z.string(), count: z.number() })),
  /** Whether these are all of them. */
  complete: z.boolean(),
});

/** What happened to a contact, and through what. */
export const changeKinds = ['added', 'changed', 'merged'] as const;
export type ChangeKind = (typeof changeKinds)[number];
export const changeSources = ['person', 'import', 'together', 'undo', 'sync', 'form', 'update'] as const;
export type ChangeSource = (typeof changeSources)[number];

export const historySchema = z.array(
  z.object({
    /** Unique within its kind. */
    id: z.number(),
    at: z.string(),
    kind: z.enum([...changeKinds, 'email']),
    source: z.enum(changeSources),
    by: z.string(),
    /** The file it came with, where it came with one. */
    file: z.object({ id: z.number(), name: z.string() }).nullable(),
    fields: z.record(z.string(), z.tuple([z.unknown(), z.unknown()])),
    /** The email that was sent, or why it was not. */
    email: z.object({ document: z.string(), name: z.string(), refused: z.string().nullable() }).nullable(),
  }),
);
export type HistoryEntry = z.infer<typeof historySchema>[number];

export const exportQuerySchema = contactQuerySchema.omit({ page: true }).extend({
  kind: z.enum(exportKinds),
  /** Only these, by their ids with commas between; whoever matches when not given. */
  ids: z
    .string()
    .max(20_000)
    .regex(/^\d+(,\d+)*$/, 'is not a list of ids')
    .transform((text) => text.split(',').map(Number))
    .optional(),
});

/** As {@link exportQuerySchema} before it is read, for an export in the background. */
export const exportRequestSchema = z.object({
  kind: z.enum(exportKinds),
  search: z.string().max(200).optional(),
  audience: z.string().max(64).optional(),
  /** A condition as JSON. */
  where: z.string().max(20_000).optional(),
  import: z.string().max(10).optional(),
  sort: z.string().max(120).optional(),
  direction: z.string().max(10).optional(),
  /** Ids with commas between. */
  ids: z.string().max(20_000).optional(),
});
export type ExportRequest = z.infer<typeof exportRequestSchema>;

/** More people than these are exported in the background. */
export const mostAtOnce = 10_000;

export const begunJobSchema = z.object({ job: z.number() });

/** How far the server is with reading contacts into memory; null where it is not reading. */
export const readingSchema = z.object({
  reading: z.object({ read: z.number(), of: z.number() }).nullable(),
});
export type Reading = z.infer<typeof readingSchema>;
