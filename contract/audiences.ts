import { z } from 'zod';
import { audienceNameSchema, audienceSchema } from '../core/audiences/audience.ts';
import { conditionSchema } from '../core/conditions/condition.ts';
import { personSchema } from './people.ts';

export const storedAudienceSchema = audienceSchema.extend({ revision: z.number(), updatedAt: z.string() });
export type StoredAudience = z.infer<typeof storedAudienceSchema>;

/** Where an audience is used. */
export const useSchema = z.object({
  what: z.enum(['page', 'email', 'audience']),
  id: z.string(),
  name: z.string(),
});
export type Use = z.infer<typeof useSchema>;

export const listedAudienceSchema = storedAudienceSchema.extend({
  count: z.number(),
  uses: z.array(useSchema),
  /** Why it can't be evaluated; empty when it can. */
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
});
export type ListedAudience = z.infer<typeof listedAudienceSchema>;

export const audienceDraftSchema = z.object({
  name: audienceNameSchema,
  description: z.string().trim().max(500).default(''),
  condition: conditionSchema,
});
export const audienceChangeSchema = audienceDraftSchema.extend({ revision: z.number().int() });

/** Who is in a condition that may not be saved yet; `audience` is the one being edited, for finding circles. */
export const countRequestSchema = z.object({
  condition: conditionSchema,
  audience: z.string().max(64).nullable(),
});
/** How many contacts are in each of some conditions, as they are saved now. */
export const countsRequestSchema = z.object({ conditions: z.array(conditionSchema).max(100) });
export const countsSchema = z.object({ counts: z.array(z.number()), total: z.number() });
export type Counts = z.infer<typeof countsSchema>;

/** How some audiences share contacts: each combination that occurs, largest first. */
export const compareRequestSchema = z.object({ audiences: z.array(z.string().max(64)).min(2).max(8) });
export const comparisonSchema = z.object({
  total: z.number(),
  sizes: z.array(z.number()),
  kinds: z.array(z.object({ isIn: z.array(z.boolean()), count: z.number() })),
});
export type Comparison = z.infer<typeof comparisonSchema>;

export const countSchema = z.object({
  count: z.number(),
  total: z.number(),
  people: z.array(personSchema),
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
  /** For each attribute tested: how many contacts have no value there. */
  lacking: z.array(z.object({ attribute: z.string(), count: z.number() })),
  /** How many are not in it only because they have no value where one is asked for. */
  leftOut: z.number(),
  /** For each part of the condition, by its path, how many pass it. */
  parts: z.array(z.object({ path: z.string(), count: z.number() })),
});
export type Count = z.infer<typeof countSchema>;
