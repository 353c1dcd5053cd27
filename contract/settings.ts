import { z } from 'zod';
import { siteSettingsSchema } from '../core/deciding/release.ts';

/** `before` is how the settings were when they were opened: who is late overwrites nobody. */
export const settingsChangeSchema = z.object({ before: siteSettingsSchema, settings: siteSettingsSchema });
