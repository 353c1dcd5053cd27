import { z } from 'zod';
import { documentParts } from '../core/analysis/document-parts.ts';
import { siteSettingsSchema } from '../core/deciding/release.ts';
import { documentKinds } from '../core/documents/document.ts';
import { personSchema } from './people.ts';

export const changeSchema = z.object({
  what: z.enum(['page', 'email', 'shared', 'collection', 'item', 'audience', 'attribute', 'settings']),
  id: z.string(),
  name: z.string(),
  change: z.enum(['new', 'changed', 'removed']),
  details: z.array(z.string()),
});

/** Somebody who must be in an audience and is not, or the other way round. */
export const brokenExampleSchema = z.object({
  audience: z.string(),
  /** The audience’s name. */
  name: z.string(),
  /** Null for an anonymous visitor. */
  contact: z.number().nullable(),
  person: z.string(),
  /** Where they must be. */
  isIn: z.boolean(),
});
export type BrokenExample = z.infer<typeof brokenExampleSchema>;

/** Identifies a broken example in a release request that accepts it. */
export function exampleKey({ audience, contact, isIn }: BrokenExample): string {
  return `${audience} ${contact ?? 'anonymous'} ${isIn ? 'in' : 'out'}`;
}

export const pendingSchema = z.object({
  changes: z.array(changeSchema),
  /** What must be mended before a release. */
  problems: z.array(z.object({ document: z.string(), name: z.string(), message: z.string() })),
  /** What must be mended, or said to be right as it is, before a release. */
  brokenExamples: z.array(brokenExampleSchema),
  liveRelease: z.number().nullable(),
  /** The release that should be live and can’t be shown; an earlier one is. */
  unshown: z.number().nullable(),
  /** Stands for the drafts as they were listed; a release names it, so that nothing unseen goes live. */
  fingerprint: z.string(),
});
export type Pending = z.infer<typeof pendingSchema>;

/** A slot, and whom each of its variants is for. */
const impactSlotSchema = z.object({ name: z.string(), audiences: z.array(z.string()) });

/** Whom the drafts would change what for, a page, email or item at a time; those that nobody sees otherwise are left out. */
export const impactSchema = z.object({
  total: z.number(),
  /** Items that change for somebody and were not counted, as there are so many. */
  itemsLeft: z.number(),
  documents: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      kind: z.enum([...documentKinds, 'item', 'menu']),
      /** What of it differs, for whomever it does. */
      parts: z.array(z.enum(documentParts)),
      /** Contacts who see something else; of an email all who would get it. */
      contacts: z.number(),
      anonymous: z.boolean(),
      /** What they saw and will see, as visible choices; null where the document is not there. Largest first. */
      changes: z.array(
        z.object({
          before: z.array(z.number()).nullable(),
          after: z.array(z.number()).nullable(),
          /** Whether they may open the page from then on only, or no longer; absent where that stays. */
          opening: z.enum(['gained', 'lost']).optional(),
          /** Contacts today; 0 where it is only possible. */
          contacts: z.number(),
          person: personSchema.nullable(),
        }),
      ),
      /** False where more changes are possible than are listed. */
      complete: z.boolean(),
      slots: z.object({ before: z.array(impactSlotSchema), after: z.array(impactSlotSchema) }),
    }),
  ),
});
export type Impact = z.infer<typeof impactSchema>;

/** What a release would change, or how far it is with being worked out, from 0 to 1. */
export const impactAnswerSchema = z.union([
  impactSchema,
  z.object({ job: z.number(), progress: z.number().nullable() }),
]);
export type ImpactAnswer = z.infer<typeof impactAnswerSchema>;

export const releaseRequestSchema = z.object({
  note: z.string().trim().max(500).default(''),
  fingerprint: z.string().max(100),
  /** The broken examples that this release accepts, by {@link exampleKey}. */
  accepted: z.array(z.string().max(200)).max(10_000).default([]),
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
