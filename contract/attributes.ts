import { z } from 'zod';
import { attributeIdSchema, attributeSchema } from '../core/attributes/attribute.ts';
import { conditionSchema } from '../core/conditions/condition.ts';
import { useSchema } from './audiences.ts';

/** What an attribute holds among the contacts, and where it is used. */
export const profileSchema = z.object({
  total: z.number(),
  lacking: z.number(),
  /** Values, or stretches of values, in order; each with the condition of the people it stands for. */
  bars: z.array(z.object({ label: z.string(), count: z.number(), condition: conditionSchema })),
  /** How many different values are not shown. */
  more: z.number(),
  uses: z.array(useSchema),
});
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
