import { z } from 'zod';
import { todayKinds } from '../core/analysis/today-kinds.ts';
import { audienceNameSchema, audienceSchema } from '../core/audiences/audience.ts';
import { conditionSchema } from '../core/conditions/condition.ts';

/** Somebody who must be in an audience, or out of it: a contact, or null for an anonymous visitor. */
export const exampleSchema = z.object({
  contact: z.number().int().min(1).nullable(),
  name: z.string().max(300),
  isIn: z.boolean(),
});
export type Example = z.infer<typeof exampleSchema>;

export const storedAudienceSchema = audienceSchema.extend({
  examples: z.array(exampleSchema),
  /** Whom it belongs to. */
  ownerName: z.string(),
  /** Who changed it last. */
  accountName: z.string(),
  archivedAt: z.string().nullable(),
  revision: z.number(),
  updatedAt: z.string(),
});
export type StoredAudience = z.infer<typeof storedAudienceSchema>;

/** Where an audience is used. */
export const useSchema = z.object({
  what: z.enum(['page', 'email', 'shared', 'collection', 'item', 'audience', 'fact', 'menu', 'crm']),
  id: z.string(),
  name: z.string(),
});
export type Use = z.infer<typeof useSchema>;

export const listedAudienceSchema = storedAudienceSchema.extend({
  /** How many are in it; null as long as contacts are read into memory. */
  count: z.number().nullable(),
  /** How many were in it as it was released, counted today; null where it is not live, or not counted yet. */
  liveCount: z.number().nullable(),
  uses: z.array(useSchema),
  /** Why it can't be evaluated; empty when it can. */
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
  /** How many of its examples do not hold. */
  brokenExamples: z.number(),
});
export type ListedAudience = z.infer<typeof listedAudienceSchema>;

export const audienceDraftSchema = z.object({
  name: audienceNameSchema,
  description: z.string().trim().max(500).default(''),
  condition: conditionSchema,
  examples: z.array(exampleSchema).max(50).default([]),
});
export const audienceChangeSchema = audienceDraftSchema.extend({ revision: z.number().int() });
export const ownerRequestSchema = z.object({ ownerName: z.string().trim().min(1).max(120) });

/** Who is in a condition that may not be saved yet; `audience` is the one being edited, for finding circles. */
export const countRequestSchema = z.object({
  condition: conditionSchema,
  audience: z.string().max(64).nullable(),
});
/** How many contacts are in each of some conditions, as they are saved now. */
export const countsRequestSchema = z.object({
  conditions: z.array(conditionSchema).max(500),
  /** Who reads an email is known and never signed in. */
  channel: z.enum(['page', 'email']).default('page'),
});
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
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
  /** For each attribute tested: how many contacts have no value there. */
  lacking: z.array(z.object({ attribute: z.string(), count: z.number() })),
  /** How many are not in it only because they have no value where one is asked for. */
  leftOut: z.number(),
  /** For each part of the condition, by its path, how many pass it. */
  parts: z.array(z.object({ path: z.string(), count: z.number() })),
  /** What is so among today's contacts only. */
  today: z.array(
    z.object({
      kind: z.enum(todayKinds),
      severity: z.enum(['wrong', 'careful', 'note']),
      sentence: z.string(),
      repairs: z.array(
        z.object({
          label: z.string(),
          condition: conditionSchema,
          joins: conditionSchema.nullable(),
          leaves: conditionSchema.nullable(),
        }),
      ),
    }),
  ),
});
export type Count = z.infer<typeof countSchema>;

export const archiveRequestSchema = z.object({ archived: z.boolean() });

export const audienceVersionsSchema = z.array(
  audienceSchema.omit({ id: true }).extend({ id: z.number(), at: z.string(), accountName: z.string() }),
);
export type AudienceVersion = z.infer<typeof audienceVersionsSchema>[number];

/** Who comes into a condition and who leaves it through time alone, day by day from today. */
export const overTimeSchema = z.object({
  days: z.array(
    z.object({
      /** The calendar day in the site's zone. */
      date: z.string(),
      count: z.number(),
      entering: z.number(),
      leaving: z.number(),
      /** Some of them, by name. */
      comers: z.array(z.object({ id: z.number(), name: z.string() })),
      leavers: z.array(z.object({ id: z.number(), name: z.string() })),
    }),
  ),
});
export type OverTime = z.infer<typeof overTimeSchema>;
