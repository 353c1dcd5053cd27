import { z } from 'zod';
import { attributeIdSchema } from '../attributes/attribute.ts';

const testSchema = z.object({
  kind: z.literal('test'),
  attribute: attributeIdSchema,
  /** An operator of the attribute's type; see operators.ts. */
  op: z.string().max(40),
  /** Operands: ids of choices, numbers, days, ISO dates or texts, as the operator asks. */
  values: z.array(z.union([z.string().max(2000), z.number()])).max(1000),
});
export type Test = z.infer<typeof testSchema>;

const audienceReferenceSchema = z.object({ kind: z.literal('audience'), audience: z.string().max(64) });
export type AudienceReference = z.infer<typeof audienceReferenceSchema>;

/**
 * A condition over attributes. An empty `all` is true, an empty `any` is false, `not` is the exact complement.
 */
export type Condition =
  | Test
  | AudienceReference
  | { kind: 'all'; of: Condition[] }
  | { kind: 'any'; of: Condition[] }
  | { kind: 'not'; of: Condition };

const treeSchema: z.ZodType<Condition> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    testSchema,
    audienceReferenceSchema,
    z.object({ kind: z.literal('all'), of: z.array(treeSchema) }),
    z.object({ kind: z.literal('any'), of: z.array(treeSchema) }),
    z.object({ kind: z.literal('not'), of: treeSchema }),
  ]),
);

/** Deepest nesting and largest number of parts that are accepted; more is an error, never a crash. */
export const deepest = 100;
export const mostParts = 5000;

/** Whether a value of unknown shape is nested within bounds; walks without recursion. */
export function withinBounds(value: unknown): boolean {
  const open: [unknown, number][] = [[value, 0]];
  let seen = 0;
  for (let next = open.pop(); next; next = open.pop()) {
    const [node, depth] = next;
    if (typeof node !== 'object' || node === null) continue;
    if (depth > 2 * deepest || ++seen > 4 * mostParts) return false;
    for (const child of Object.values(node)) open.push([child, depth + 1]);
  }
  return true;
}

export const conditionSchema: z.ZodType<Condition> = z
  .unknown()
  .refine(withinBounds, {
    message: `nested deeper than ${deepest} or more than ${mostParts} parts`,
    abort: true,
  })
  .pipe(treeSchema);

export function all(...of: Condition[]): Condition {
  return { kind: 'all', of };
}
export function any(...of: Condition[]): Condition {
  return { kind: 'any', of };
}
export function not(of: Condition): Condition {
  return { kind: 'not', of };
}
export function test(attribute: string, op: string, ...values: (string | number)[]): Test {
  return { kind: 'test', attribute, op, values };
}
export function inAudience(audience: string): Condition {
  return { kind: 'audience', audience };
}

/** Every test and reference of a condition, in reading order. */
export function* leavesOf(condition: Condition): Generator<Test | AudienceReference> {
  switch (condition.kind) {
    case 'test':
    case 'audience':
      yield condition;
      return;
    case 'not':
      yield* leavesOf(condition.of);
      return;
    default:
      for (const part of condition.of) yield* leavesOf(part);
  }
}

export function audiencesIn(condition: Condition): Set<string> {
  const found = new Set<string>();
  for (const leaf of leavesOf(condition)) if (leaf.kind === 'audience') found.add(leaf.audience);
  return found;
}

/** Tests against the viewer's own value of another attribute, which stands as their operand. */
const againstAnother = new Set(['same-as', 'includes-own']);

/** The attributes that a condition asks for, those whose value it compares with included. */
export function attributesIn(condition: Condition): Set<string> {
  const found = new Set<string>();
  for (const leaf of leavesOf(condition)) {
    if (leaf.kind !== 'test') continue;
    found.add(leaf.attribute);
    if (againstAnother.has(leaf.op)) found.add(String(leaf.values[0]));
  }
  return found;
}
