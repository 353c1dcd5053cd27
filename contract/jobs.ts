import { z } from 'zod';

/** What becomes of a piece of work in the background. */
export const jobStatuses = ['waiting', 'running', 'done', 'failed', 'stopped'] as const;
export type JobStatus = (typeof jobStatuses)[number];

export const listedJobSchema = z.object({
  id: z.number(),
  /** What it is for, where there is one such job at a time. */
  key: z.string().nullable(),
  /** What it is about, in words. */
  title: z.string(),
  status: z.enum(jobStatuses),
  /** From 0 to 1; null where it can't be said. */
  progress: z.number().nullable(),
  /** How often it was begun. */
  attempts: z.number(),
  /** Why it failed, the last time it did. */
  failure: z.string().nullable(),
  /** Whether it stops as soon as it can. */
  isStopping: z.boolean(),
  /** The address below the API of a file that it made; null where it made none. */
  file: z.string().nullable(),
  /** Seconds from one run to the next, where it runs again and again. */
  every: z.number().nullable(),
  accountName: z.string(),
  createdAt: z.string(),
  /** When it runs next, where it waits. */
  runAfter: z.string(),
  startedAt: z.string().nullable(),
  finishedAt: z.string().nullable(),
});
export type ListedJob = z.infer<typeof listedJobSchema>;
export const listedJobsSchema = z.array(listedJobSchema);
