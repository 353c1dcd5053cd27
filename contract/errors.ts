import { z } from 'zod';

/** What every refused request gets: what happened, and for a body of the wrong shape the path of each field. */
export const refusalSchema = z.object({
  message: z.string(),
  fields: z.array(z.object({ path: z.string(), message: z.string() })).default([]),
  /** With 409: what is stored now, for showing both. */
  current: z.unknown().optional(),
});
export type RefusalBody = z.infer<typeof refusalSchema>;
