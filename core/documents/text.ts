import { z } from 'zod';
import { attributeIdSchema } from '../attributes/attribute.ts';

/** Text as a small document tree in the JSON form that ProseMirror editors read and write. */
const markSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bold') }),
  z.object({ type: z.literal('italic') }),
  z.object({ type: z.literal('link'), attrs: z.object({ href: z.string().max(2000) }) }),
]);
export type Mark = z.infer<typeof markSchema>;

export const mergeFieldSchema = z.object({
  type: z.literal('mergeField'),
  attrs: z.object({ attribute: attributeIdSchema, fallback: z.string().max(200) }),
});
/** A personal value, with the words that stand for it where the viewer has none. */
export type MergeField = z.infer<typeof mergeFieldSchema>;

export const inlineSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('text'),
    text: z.string().min(1).max(100_000),
    marks: z.array(markSchema).optional(),
  }),
  mergeFieldSchema,
  z.object({ type: z.literal('hardBreak') }),
]);
export type Inline = z.infer<typeof inlineSchema>;

export const inlinesSchema = z.array(inlineSchema).max(5000);

const paragraphSchema = z.object({ type: z.literal('paragraph'), content: inlinesSchema.optional() });
const listItemSchema = z.object({ type: z.literal('listItem'), content: z.array(paragraphSchema) });
export const textBlockSchema = z.discriminatedUnion('type', [
  paragraphSchema,
  z.object({ type: z.literal('bulletList'), content: z.array(listItemSchema) }),
  z.object({ type: z.literal('orderedList'), content: z.array(listItemSchema) }),
]);
export type TextBlock = z.infer<typeof textBlockSchema>;

/** What stands for a merge field in plain words: its label in braces, or a viewer's own value. */
export type SayMerge = (field: MergeField['attrs']) => string;

/** The words of inline text on one line. */
export function plainInline(content: readonly Inline[], sayMerge: SayMerge): string {
  return content
    .map((inline) => {
      if (inline.type === 'text') return inline.text;
      return inline.type === 'mergeField' ? sayMerge(inline.attrs) : ' ';
    })
    .join('');
}

export function* mergeFieldsOf(blocks: readonly (TextBlock | Inline)[]): Generator<MergeField> {
  for (const block of blocks) {
    if (block.type === 'mergeField') yield block;
    else if (block.type === 'paragraph') yield* mergeFieldsOf(block.content ?? []);
    else if (block.type === 'bulletList' || block.type === 'orderedList')
      for (const item of block.content) yield* mergeFieldsOf(item.content);
  }
}

/** Inline text of one plain run. */
export function words(text: string): Inline[] {
  return text === '' ? [] : [{ type: 'text', text }];
}
