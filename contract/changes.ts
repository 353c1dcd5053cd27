import { z } from 'zod';

/** The kinds of things whose changes are logged; a use is which audiences a document uses, and under which name. */
export const loggedKinds = [
  'account',
  'api-key',
  'attribute',
  'audience',
  'collection',
  'contact',
  'document',
  'fact',
  'file',
  'import',
  'item',
  'item-views',
  'job',
  'message',
  'release',
  'send',
  'session',
  'set-aside',
  'setting',
  'use',
] as const;
export type LoggedKind = (typeof loggedKinds)[number];

/** A change that was committed. */
export const loggedChangeSchema = z.object({
  /** Its position among all changes, from 1, without gaps. */
  position: z.number(),
  kind: z.enum(loggedKinds),
  /** What changed, by id; null where anything of the kind may have. */
  ids: z.array(z.string()).nullable(),
  /** The revision since then of the one that changed, where its kind counts revisions. */
  revision: z.number().nullable(),
});
export type LoggedChange = z.infer<typeof loggedChangeSchema>;

/** One event of the change stream: some changes, and the position of the last of them. */
export const changeEventSchema = z.object({ position: z.number(), changes: z.array(loggedChangeSchema) });
export type ChangeEvent = z.infer<typeof changeEventSchema>;

export const changeStreamQuerySchema = z.object({
  /** The position of the last change that the caller knows. */
  after: z.coerce.number().int().nonnegative().optional(),
});
