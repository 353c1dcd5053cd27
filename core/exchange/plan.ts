import { z } from 'zod';
import { attributeIdSchema, attributeSchema } from '../attributes/attribute.ts';
import { mostColumns } from './source.ts';
import { dateOrders, decimalSigns } from './written.ts';

/** What a column of a file becomes. */
export const targetSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('skip') }),
  z.object({ kind: z.literal('email') }),
  z.object({ kind: z.literal('external-id') }),
  z.object({
    kind: z.literal('attribute'),
    attribute: attributeIdSchema,
    /** Values that are none of its choices become choices; otherwise their rows are left out. */
    addChoices: z.boolean().default(false),
  }),
  z.object({ kind: z.literal('new'), attribute: attributeSchema }),
]);
export type Target = z.infer<typeof targetSchema>;

export const columnPlanSchema = z.object({
  header: z.string().max(1000),
  to: targetSchema,
  /** For sets: the sign between the members of one cell. Without it, `;` and `|` both are. */
  splitAt: z.string().length(1).optional(),
  dates: z.enum(dateOrders).optional(),
  decimals: z.enum(decimalSigns).optional(),
});
export type ColumnPlan = z.infer<typeof columnPlanSchema>;

const givenSchema = z.object({
  attribute: attributeIdSchema,
  label: z.string().trim().min(1, 'A name is needed').max(120),
});

/** How a file is brought in. */
export const importPlanSchema = z.object({
  columns: z.array(columnPlanSchema).max(mostColumns),
  /** What tells that a person is known already. Addresses match without regard to case. */
  matchBy: z.enum(['email', 'external-id']),
  /**
   * What happens to people who are known: the file's values replace theirs; only fill in what they lack; or they are
   * left as they are.
   */
  known: z.enum(['overwrite', 'fill', 'leave']),
  /** What a blank cell does to a value that is there. */
  blank: z.enum(['keep', 'clear']),
  /** What is left out where a cell can't be read: its whole row, or the cell alone. */
  unreadable: z.enum(['row', 'cell']).default('row'),
  /** What everybody in the file gets, such as a tag: a choice of a set, by its label, which becomes one where it is none. */
  given: z.array(givenSchema).max(20).default([]),
});
export type ImportPlan = z.infer<typeof importPlanSchema>;
