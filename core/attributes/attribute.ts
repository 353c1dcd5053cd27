import { z } from 'zod';

/** Where an attribute's value comes from; every source but `contact` is built in. */
export const attributeSources = ['contact', 'sign-in', 'visit', 'moment', 'item'] as const;
export type AttributeSource = (typeof attributeSources)[number];

export const attributeIdSchema = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,63}$/, 'lower-case letters, digits and hyphens, at most 64');

export const choiceSchema = z.object({
  id: z.string().min(1).max(120),
  label: z.string().trim().min(1).max(120),
});
export type Choice = z.infer<typeof choiceSchema>;

const base = z.object({
  id: attributeIdSchema,
  source: z.enum(attributeSources),
  label: z.string().trim().min(1).max(120),
  description: z.string().max(500).default(''),
});

/**
 * A typed field that conditions test and merge fields print.
 *
 * Values by type: `yes-no` boolean; `choice` the id of one choice; `set` an array of ids of choices; `number`
 * a finite number; `date` an ISO 8601 calendar date (`2026-11-29`); `date-time` an instant in UTC with milliseconds
 * (`2026-11-29T18:00:00.000Z`); `time` a time of day (`18:30`); `text` a string; `country` an ISO 3166-1 alpha-2 code;
 * `address` an IP address, v4 or v6; `language` an array of BCP 47 tags, the most preferred first; `path` the path of
 * an address on the site (`/guides/moon`). An ordered choice lists its choices from lowest to highest.
 */
export const attributeSchema = z.discriminatedUnion('type', [
  base.extend({ type: z.literal('yes-no') }),
  base.extend({ type: z.literal('choice'), choices: z.array(choiceSchema).max(500), ordered: z.boolean() }),
  base.extend({
    type: z.literal('set'),
    choices: z.array(choiceSchema).max(500),
    /** At most one value of a group is held at a time. */
    exclusiveGroups: z
      .array(z.object({ name: z.string().min(1).max(120), members: z.array(z.string()) }))
      .default([]),
  }),
  base.extend({
    type: z.literal('number'),
    /** Counts and the like: between 2 and 3 there is no other value. */
    whole: z.boolean().optional(),
  }),
  base.extend({ type: z.literal('date') }),
  base.extend({ type: z.literal('date-time') }),
  base.extend({ type: z.literal('time') }),
  base.extend({
    type: z.literal('text'),
    /** For the visit only: the query parameter or cookie of the request that holds the value. */
    reads: z
      .object({ from: z.enum(['query', 'cookie']), name: z.string().regex(/^[\w.-]{1,80}$/) })
      .optional(),
  }),
  base.extend({ type: z.literal('country') }),
  base.extend({ type: z.literal('address') }),
  base.extend({ type: z.literal('language') }),
  base.extend({ type: z.literal('path') }),
]);
export type Attribute = z.infer<typeof attributeSchema>;
export type AttributeType = Attribute['type'];
export const attributeTypes = attributeSchema.options.map((option) => option.shape.type.value);

export type Value = boolean | string | number | string[];
/** Values by attribute id; an absent key is a missing value. */
export type Values = { readonly [attribute: string]: Value | undefined };

export function choicesOf(attribute: Attribute): readonly Choice[] {
  return attribute.type === 'choice' || attribute.type === 'set' ? attribute.choices : [];
}

/** The label of a choice, or the id itself where the choice is gone. */
export function choiceLabel(attribute: Attribute, id: string): string {
  return choicesOf(attribute).find((choice) => choice.id === id)?.label ?? id;
}
