import { z } from 'zod';
import { attributeSchema } from '../attributes/attribute.ts';
import { isZone } from '../attributes/calendar.ts';
import { audienceSchema } from '../audiences/audience.ts';
import { statedFactSchema } from '../audiences/fact.ts';
import { documentSchema } from '../documents/document.ts';

export const siteSettingsSchema = z.object({
  name: z.string().min(1).max(120),
  /** IANA name. */
  zone: z.string().refine(isZone, 'is not a time zone'),
  /** BCP 47 tag for dates and numbers in text. */
  locale: z.string().min(2).max(20),
  /** Stands at the foot of every email and never varies. */
  postalAddress: z.string().min(1).max(300),
  fromAddress: z.email(),
});
export type SiteSettings = z.infer<typeof siteSettingsSchema>;

/** Everything that deciding and rendering need, frozen at one moment: what a release holds, or the drafts. */
export const snapshotSchema = z.object({
  settings: siteSettingsSchema,
  attributes: z.array(attributeSchema),
  audiences: z.array(audienceSchema),
  documents: z.array(documentSchema),
  /** What is stated to hold for every contact; proofs rely on it, deciding does not. */
  facts: z.array(statedFactSchema).optional(),
});
export type Snapshot = z.infer<typeof snapshotSchema>;
