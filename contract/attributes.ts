import { z } from 'zod';
import { attributeIdSchema, attributeSchema, attributeTypes } from '../core/attributes/attribute.ts';
import { conditionSchema } from '../core/conditions/condition.ts';
import { namedSchema } from './addresses.ts';
import { useSchema } from './audiences.ts';

/** Most values that are counted of those that are not shown. */
export const mostOthers = 1000;

/** What an attribute holds among the contacts, and where it is used. */
export const profileSchema = z.object({
  total: z.number(),
  lacking: z.number(),
  /** Values, or stretches of values, in order; each with the condition of the people it stands for. */
  bars: z.array(z.object({ label: z.string(), count: z.number(), condition: conditionSchema })),
  /** How many different values are not shown; at most {@link mostOthers}, which may then be more. */
  more: z.number(),
  uses: z.array(useSchema),
});
/** Values that did not fit and were taken out, the latest first; `count` is how many there are in all. */
export const setAsideSchema = z.object({
  count: z.number(),
  values: z.array(
    z.object({
      of: z.discriminatedUnion('what', [
        z.object({ what: z.literal('contact'), id: z.number(), name: z.string() }),
        z.object({ what: z.literal('item'), id: z.string(), collection: z.string(), name: z.string() }),
      ]),
      value: z.string(),
    }),
  ),
});
export type SetAside = z.infer<typeof setAsideSchema>;
/** How many values of each attribute are set aside. */
export const setAsideCountsSchema = z.record(z.string(), z.number());

/** What the values of an attribute can be made: a type, and of numbers the whole ones alone. */
export const valueKinds = [...attributeTypes, 'whole-number'] as const;
export type ValueKind = (typeof valueKinds)[number];

export type Profile = z.infer<typeof profileSchema>;

export const newAttributeSchema = z.object({ attribute: attributeSchema });
/** `before` is the attribute as it was when it was opened: who is late overwrites nobody. */
export const attributeChangeSchema = z.object({ before: attributeSchema, attribute: attributeSchema });
export const attributeOrderSchema = z.object({ ids: z.array(attributeIdSchema).max(2000) });
export const choiceMergeSchema = z.object({ from: z.string().max(120), into: z.string().max(120) });

/** What another type makes of the values that are there. */
export const conversionSchema = z.object({
  kept: z.number(),
  lost: z.number(),
  /** The values that would be lost, most frequent first. */
  losses: z.array(z.object({ value: z.string(), count: z.number() })),
});
export type Conversion = z.infer<typeof conversionSchema>;

/** Which attribute would be made one of another type. */
export const conversionRequestSchema = namedSchema.extend({ type: z.enum(valueKinds) });
