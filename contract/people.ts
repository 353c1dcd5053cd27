import { z } from 'zod';
import { attributeIdSchema, attributeSchema } from '../core/attributes/attribute.ts';
import { conditionSchema } from '../core/conditions/condition.ts';

export const attributesSchema = z.array(attributeSchema);

export const personSchema = z.object({
  id: z.number(),
  name: z.string(),
  email: z.string(),
  values: z.record(z.string(), z.unknown()),
  hasAccount: z.boolean(),
});
export type PersonRecord = z.infer<typeof personSchema>;

export const contactSchema = personSchema.extend({
  unsubscribedAt: z.string().nullable(),
  updatedAt: z.string(),
});
export type Contact = z.infer<typeof contactSchema>;

export const pageSize = 50;
/** A page of contacts. `where` is a condition as JSON; `audience` the id of an audience. */
export const contactQuerySchema = z.object({
  search: z.string().max(200).default(''),
  sort: z.union([z.literal('name'), attributeIdSchema]).default('name'),
  direction: z.enum(['up', 'down']).default('up'),
  page: z.coerce.number().int().min(0).max(1_000_000).default(0),
  audience: z.string().max(64).optional(),
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
});

/** What happened to a contact, and through what. */
export const changeKinds = ['added', 'changed', 'merged'] as const;
export type ChangeKind = (typeof changeKinds)[number];
export const changeSources = ['person', 'import', 'undo', 'sync'] as const;
export type ChangeSource = (typeof changeSources)[number];
