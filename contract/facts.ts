import { z } from 'zod';
import { statedFactSchema } from '../core/audiences/fact.ts';

export const factDraftSchema = statedFactSchema.omit({ id: true });
export const factChangeSchema = factDraftSchema.extend({ revision: z.number().int() });

export const listedFactSchema = statedFactSchema.extend({
  accountName: z.string(),
  revision: z.number(),
  /** How many contacts it is about, and how many of them break it. */
  about: z.number(),
  breaking: z.number(),
  /** Why it can't be relied on; empty when it can. */
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
});
export const listedFactsSchema = z.array(listedFactSchema);
export type ListedFact = z.infer<typeof listedFactSchema>;
