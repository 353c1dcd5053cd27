import { z } from 'zod';
import { attributeSchema } from '../core/attributes/attribute.ts';
import { bulkChangeSchema } from '../core/exchange/bulk-change.ts';
import { importPlanSchema } from '../core/exchange/plan.ts';
import { sourceKinds } from '../core/exchange/source.ts';
import { contactQuerySchema } from './people.ts';

/** Most bytes of a file. */
export const largestImport = 256 * 1024 * 1024;
/** How many people of each kind a report shows. */
export const shownOfEach = 20;

/**
 * Where an import stands: the file is being read, waits for its plan, is being tried, was tried, is being brought in, is
 * in, was stopped, did not succeed, is being taken back, was taken back.
 */
export const importStatuses = [
  'reading',
  'read',
  'checking',
  'checked',
  'importing',
  'imported',
  'cancelled',
  'failed',
  'undoing',
  'undone',
] as const;
export type ImportStatus = (typeof importStatuses)[number];

const columnSurveySchema = z.object({
  header: z.string(),
  filled: z.number(),
  blank: z.number(),
  examples: z.array(z.string()),
  distinct: z.array(z.string()).nullable(),
  fits: z.object({
    email: z.number(),
    'yes-no': z.number(),
    number: z.number(),
    date: z.number(),
    'date-time': z.number(),
    country: z.number(),
    list: z.number(),
    code: z.number().default(0),
  }),
  dates: z.enum(['day-first', 'month-first', 'either', 'mixed']).nullable(),
  decimals: z.enum(['point', 'comma', 'either', 'mixed']).nullable(),
});

export const fileSurveySchema = z.object({
  kind: z.enum(sourceKinds),
  encoding: z.enum(['utf-8', 'utf-16le', 'utf-16be', 'windows-1252']),
  records: z.number(),
  columns: z.array(columnSurveySchema),
});
export type FileSurvey = z.infer<typeof fileSurveySchema>;

const fieldsSchema = z.record(z.string(), z.tuple([z.unknown(), z.unknown()]));

const leftOutSchema = z.object({
  row: z.number(),
  email: z.string(),
  column: z.string().nullable(),
  reason: z.string(),
});

export const importReportSchema = z.object({
  rows: z.number(),
  added: z.number(),
  changed: z.number(),
  unchanged: z.number(),
  rejected: z.number(),
  /** How many rows are left out because of a cell in each column, most first. */
  causes: z.array(z.object({ column: z.string(), rows: z.number() })).default([]),
  /** Cells that were left out alone. */
  cells: z.number().default(0),
  /** The first of each; what changes is by attribute. */
  samples: z.object({
    added: z.array(z.object({ row: z.number(), email: z.string(), fields: fieldsSchema })),
    changed: z.array(z.object({ row: z.number(), email: z.string(), fields: fieldsSchema })),
    unchanged: z.array(z.object({ row: z.number(), email: z.string() })),
    rejected: z.array(leftOutSchema),
    cells: z.array(leftOutSchema).default([]),
  }),
  /** Attributes that came with it, and those that got more choices, as they were and as they became. */
  attributes: z
    .object({
      added: z.array(attributeSchema),
      extended: z.array(z.object({ before: attributeSchema, after: attributeSchema })),
    })
    .optional(),
  /** After an undo: how many are gone again, how many are as they were, and how many were changed since and kept. */
  undone: z.object({ removed: z.number(), restored: z.number(), kept: z.number() }).optional(),
});
export type ImportReport = z.infer<typeof importReportSchema>;

export const importSchema = z.object({
  id: z.number(),
  name: z.string(),
  bytes: z.number(),
  status: z.enum(importStatuses),
  accountName: z.string(),
  survey: fileSurveySchema.nullable(),
  plan: importPlanSchema.nullable(),
  /** What is done to contacts that are there, where no file is brought in. */
  change: bulkChangeSchema.nullable(),
  /** What has to be settled in the plan, by its path. */
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
  report: importReportSchema.nullable(),
  failure: z.string().nullable(),
  /** While something runs: the share done, 0 to 1. */
  progress: z.number().nullable(),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
});
export type Import = z.infer<typeof importSchema>;
export const importsSchema = z.array(importSchema.omit({ survey: true, plan: true, problems: true }));

/** A change of many contacts: of those that are named, or of whoever a query finds. */
export const bulkRequestSchema = z.object({
  change: bulkChangeSchema,
  ids: z.array(z.number().int().min(1)).min(1).max(10_000).optional(),
  query: contactQuerySchema.omit({ page: true, sort: true, direction: true }).optional(),
});
export type BulkRequest = z.infer<typeof bulkRequestSchema>;

export const uploadQuerySchema = z.object({ name: z.string().trim().min(1).max(255) });
