import { z } from 'zod';
import { siteSettingsSchema } from '../core/deciding/release.ts';

/** The first account of an installation and the site that it is for. */
export const firstStartSchema = z.object({
  siteName: z.string().trim().min(1).max(120),
  zone: siteSettingsSchema.shape.zone,
  locale: siteSettingsSchema.shape.locale,
  name: z.string().trim().min(1).max(120),
  email: z.email().max(254),
  password: z.string().min(10).max(1000),
});
export type FirstStart = z.infer<typeof firstStartSchema>;
