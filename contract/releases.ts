import { z } from 'zod';
import { siteSettingsSchema } from '../core/deciding/release.ts';

export const changeSchema = z.object({
  what: z.enum(['page', 'email', 'audience', 'attribute', 'settings']),
  id: z.string(),
  name: z.string(),
  change: z.enum(['new', 'changed', 'removed']),
  details: z.array(z.string()),
});

export const pendingSchema = z.object({
  changes: z.array(changeSchema),
  /** What must be mended before a release. */
  problems: z.array(z.object({ document: z.string(), name: z.string(), message: z.string() })),
  liveRelease: z.number().nullable(),
  /** Stands for the drafts as they were listed; a release names it, so that nothing unseen goes live. */
  fingerprint: z.string(),
});
export type Pending = z.infer<typeof pendingSchema>;

export const releaseRequestSchema = z.object({
  note: z.string().trim().max(500).default(''),
  fingerprint: z.string().max(100),
});

export const releaseSchema = z.object({
  id: z.number(),
  note: z.string(),
  accountName: z.string(),
  createdAt: z.string(),
  changes: z.array(changeSchema),
  live: z.boolean(),
});
export type Release = z.infer<typeof releaseSchema>;

export const settingsSchema = siteSettingsSchema;
