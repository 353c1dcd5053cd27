import type { z } from 'zod';
import { Refusal } from '../refusal.ts';

/** A body, query or parameter read by its schema; a wrong shape is refused with the path of each field. */
export function parse<Output>(schema: z.ZodType<Output>, input: unknown): Output {
  const parsed = schema.safeParse(input);
  if (parsed.success) return parsed.data;
  const fields = parsed.error.issues.slice(0, 20).map((issue) => ({
    path: issue.path.join('.'),
    message: issue.message,
  }));
  const [first] = fields;
  const where = first?.path ? `${first.path}: ${first.message}` : first?.message;
  throw new Refusal(400, `This request can’t be read. ${where ?? ''}`.trim(), { fields });
}
