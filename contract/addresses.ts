import { z } from 'zod';

// What stands in the addresses of requests.

/** The id of a contact, an import, a release: a number. */
export const serialSchema = z.object({
  id: z
    .string()
    .regex(/^[1-9]\d{0,9}$/, 'is not a number that something could have')
    .transform(Number),
});

/** The id of anything that has a name of its own. */
export const namedSchema = z.object({ id: z.string().min(1).max(64) });
