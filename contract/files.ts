import { z } from 'zod';
import { storedFileSchema } from './collections.ts';

/** A picture or a video that was uploaded, and where the drafts show it. */
export const listedFileSchema = storedFileSchema.extend({
  /** In pixels; null of a video, and where it does not say. */
  width: z.number().nullable(),
  height: z.number().nullable(),
  uses: z.array(
    z.object({
      what: z.enum(['page', 'email', 'shared', 'item']),
      id: z.string(),
      name: z.string(),
      /** Of an item, the collection that it is in. */
      collection: z.string().nullable(),
    }),
  ),
});
export const listedFilesSchema = z.array(listedFileSchema);
export type ListedFile = z.infer<typeof listedFileSchema>;

/** The file that takes the place of another one, everywhere. */
export const fileReplacementSchema = z.object({ by: z.string().min(1).max(64) });
export const fileReplacedSchema = z.object({ places: z.number() });
