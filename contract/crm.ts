import { z } from 'zod';
import { attributeIdSchema } from '../core/attributes/attribute.ts';

/** Everything that can go wrong with the stand-in. */
export const crmSwitchesSchema = z.object({
  slowMs: z.number().int().min(0).max(10_000),
  /** Every so many-th request fails with 500; 0 for none. */
  failEvery: z.number().int().min(0).max(1000),
  /** Every so many-th request is refused with 429 and Retry-After; 0 for none. */
  limitEvery: z.number().int().min(0).max(1000),
  malformed: z.boolean(),
  duplicates: z.boolean(),
});
export type CrmSwitches = z.infer<typeof crmSwitchesSchema>;

/** What wins where a value changed on both sides since the last sync. */
export const conflictRules = ['theirs', 'ours', 'newer'] as const;

export const crmSettingsSchema = z.object({
  address: z
    .url({ protocol: /^https?$/, message: 'is not an address that begins with http:// or https://' })
    .max(500),
  key: z.string().max(500),
  /** Which attribute each of their fields fills; a field that is not named is left out. */
  fields: z.record(z.string().max(200), attributeIdSchema),
  conflict: z.enum(conflictRules),
  /** Minutes between two syncs by themselves; null for none. */
  everyMinutes: z.number().int().min(1).max(10_080).nullable(),
});
export type CrmSettings = z.infer<typeof crmSettingsSchema>;

export const crmResultSchema = z.object({
  startedAt: z.string(),
  finishedAt: z.string().nullable(),
  pages: z.number(),
  added: z.number(),
  changed: z.number(),
  unchanged: z.number(),
  /** Values that were kept because they changed here. */
  kept: z.number(),
  skipped: z.number(),
  /** The first of those that could not be taken. */
  reasons: z.array(z.object({ id: z.string(), reason: z.string() })),
  /** How often it had to wait and ask again. */
  retries: z.number(),
  error: z.string().nullable(),
});
export type CrmResult = z.infer<typeof crmResultSchema>;

export const crmStatusSchema = z.object({
  settings: crmSettingsSchema,
  running: z.boolean(),
  result: crmResultSchema.nullable(),
  /** Up to which moment their changes are here; null before the first sync is through. */
  upTo: z.string().nullable(),
  /** The address and key of the stand-in, where this instance has one. */
  standIn: z.object({ address: z.string(), key: z.string(), switches: crmSwitchesSchema }).nullable(),
});
export type CrmStatus = z.infer<typeof crmStatusSchema>;

export const crmFieldsSchema = z.object({ fields: z.array(z.string().max(200)).max(300) });
/** One page of their contacts; what each holds is looked at one by one. */
export const crmPageSchema = z.object({
  contacts: z.array(z.unknown()).max(1000),
  next: z.string().max(200).nullable(),
});
