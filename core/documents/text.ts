import { z } from 'zod';
import { attributeIdSchema } from '../attributes/attribute.ts';

/** Text as a small document tree in the JSON form that ProseMirror editors read and write. */
const markSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bold') }),
  z.object({ type: z.literal('italic') }),
  z.object({ type: z.literal('link'), attrs: z.object({ href: z.string().max(2000) }) }),
]);
export type Mark = z.infer<typeof markSchema>;

/** Ways of writing a value: of words, numbers and dates. */
export const mergeLooks = [
  'upper',
  'lower',
  'capital',
  'whole',
  'two-decimals',
  'short-date',
  'weekday',
  'day-and-month',
] as const;
export type MergeLook = (typeof mergeLooks)[number];

export const mergeFieldSchema = z.object({
  type: z.literal('mergeField'),
  attrs: z.object({
    attribute: attributeIdSchema,
    fallback: z.string().max(200),
    /** How the value is written; as the language of the site has it when not given. */
    look: z.enum(mergeLooks).nullish(),
  }),
});
/** A personal value, with the words that stand for it where the viewer has none. */
export type MergeField = z.infer<typeof mergeFieldSchema>;

/** A few words that differ by audience: the first whose audience contains the viewer, otherwise `otherwise`. */
export const alternativesSchema = z.object({
  type: z.literal('alternatives'),
  attrs: z.object({
    id: z.string().min(1).max(40),
    name: z.string().min(1).max(120),
    variants: z
      .array(
        z.object({
          id: z.string().min(1).max(40),
          audience: z.string().max(64),
          words: z.string().max(2000),
        }),
      )
      .max(26),
    otherwise: z.string().max(2000),
  }),
});
export type Alternatives = z.infer<typeof alternativesSchema>;

export const inlineSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('text'),
    text: z.string().min(1).max(100_000),
    marks: z.array(markSchema).optional(),
  }),
  mergeFieldSchema,
  alternativesSchema,
  z.object({ type: z.literal('hardBreak') }),
]);
export type Inline = z.infer<typeof inlineSchema>;

export const inlinesSchema = z.array(inlineSchema).max(5000);

const paragraphSchema = z.object({ type: z.literal('paragraph'), content: inlinesSchema.optional() });
const listItemSchema = z.object({ type: z.literal('listItem'), content: z.array(paragraphSchema) });
const cellSchema = z.object({
  type: z.enum(['tableHeader', 'tableCell']),
  content: z.array(paragraphSchema),
});
export const textBlockSchema = z.discriminatedUnion('type', [
  paragraphSchema,
  z.object({ type: z.literal('bulletList'), content: z.array(listItemSchema) }),
  z.object({ type: z.literal('orderedList'), content: z.array(listItemSchema) }),
  z.object({ type: z.literal('blockquote'), content: z.array(paragraphSchema) }),
  z.object({
    type: z.literal('table'),
    content: z
      .array(z.object({ type: z.literal('tableRow'), content: z.array(cellSchema).max(50) }))
      .max(500),
  }),
]);
export type TextBlock = z.infer<typeof textBlockSchema>;
type Paragraph = z.infer<typeof paragraphSchema>;

/**
 * The same text with what an editor needs in each place: a paragraph in each item, quotation and cell, and no list or
 * table of nothing.
 */
export function wholeText(blocks: readonly TextBlock[]): TextBlock[] {
  const whole = (paragraphs: Paragraph[]): Paragraph[] =>
    paragraphs.length > 0 ? paragraphs : [{ type: 'paragraph' }];
  return blocks.flatMap((block): TextBlock[] => {
    switch (block.type) {
      case 'paragraph':
        return [block];
      case 'blockquote':
        return [{ ...block, content: whole(block.content) }];
      case 'table': {
        const rows = block.content
          .filter(({ content }) => content.length > 0)
          .map((row) => ({
            ...row,
            content: row.content.map((cell) => ({ ...cell, content: whole(cell.content) })),
          }));
        return rows.length > 0 ? [{ ...block, content: rows }] : [];
      }
      default: {
        const items = block.content.map((item) => ({ ...item, content: whole(item.content) }));
        return items.length > 0 ? [{ ...block, content: items }] : [];
      }
    }
  });
}

/** A line with words behind it, or instead of it. */
export function inlinesWith(content: readonly Inline[], words: string, isInstead: boolean): Inline[] {
  return [...(isInstead ? [] : content), { type: 'text', text: words.replaceAll('\n', ' ') }];
}

/** A text with words behind it, or instead of it; each line of them is a paragraph, the first goes on in a last one. */
export function textWith(content: readonly TextBlock[], words: string, isInstead: boolean): TextBlock[] {
  const lines = words.split('\n').map((line): TextBlock => {
    return line === ''
      ? { type: 'paragraph' }
      : { type: 'paragraph', content: [{ type: 'text', text: line }] };
  });
  if (isInstead) return lines;
  const last = content.at(-1);
  const [first, ...others] = lines;
  if (last?.type !== 'paragraph' || first?.type !== 'paragraph') return [...content, ...lines];
  const joined = [...(last.content ?? []), ...(first.content ?? [])];
  return [...content.slice(0, -1), { ...last, content: joined }, ...others];
}

/** The paragraphs that a piece of text is made of, in reading order. */
export function paragraphsOf(block: TextBlock): readonly Paragraph[] {
  switch (block.type) {
    case 'paragraph':
      return [block];
    case 'blockquote':
      return block.content;
    case 'table':
      return block.content.flatMap((row) => row.content.flatMap((cell) => cell.content));
    default:
      return block.content.flatMap((item) => item.content);
  }
}

/** Every inline of some text, in reading order. */
export function* inlinesOf(blocks: readonly (TextBlock | Inline)[]): Generator<Inline> {
  for (const block of blocks) {
    if (isInline(block)) yield block;
    else for (const paragraph of paragraphsOf(block)) yield* paragraph.content ?? [];
  }
}

function isInline(block: TextBlock | Inline): block is Inline {
  return ['text', 'mergeField', 'alternatives', 'hardBreak'].includes(block.type);
}

/** The same text with each inline put through a change; what does not change is shared. */
export function mapInlines<Part extends TextBlock | Inline>(
  blocks: readonly Part[],
  change: (inline: Inline) => readonly Inline[],
): Part[] {
  const inParagraphs = (paragraphs: readonly Paragraph[]): Paragraph[] =>
    paragraphs.map((paragraph) => ({ ...paragraph, content: (paragraph.content ?? []).flatMap(change) }));
  const mapped = blocks.flatMap((block: TextBlock | Inline): (TextBlock | Inline)[] => {
    switch (block.type) {
      case 'paragraph':
        return inParagraphs([block]);
      case 'blockquote':
        return [{ ...block, content: inParagraphs(block.content) }];
      case 'bulletList':
      case 'orderedList':
        return [
          {
            ...block,
            content: block.content.map((item) => ({ ...item, content: inParagraphs(item.content) })),
          },
        ];
      case 'table':
        return [
          {
            ...block,
            content: block.content.map((row) => ({
              ...row,
              content: row.content.map((cell) => ({ ...cell, content: inParagraphs(cell.content) })),
            })),
          },
        ];
      default:
        return [...change(block)];
    }
  });
  // Inlines become inlines and paragraphs stay what they are, so the parts are of the kind that came in.
  return mapped as Part[];
}

/** What stands for a merge field in plain words: its label in braces, or a viewer's own value. */
export type SayMerge = (field: Pick<MergeField['attrs'], 'attribute' | 'fallback'>) => string;

/** The words of inline text on one line. */
export function plainInline(content: readonly Inline[], sayMerge: SayMerge): string {
  return content
    .map((inline) => {
      if (inline.type === 'text') return inline.text;
      if (inline.type === 'alternatives') return inline.attrs.otherwise;
      return inline.type === 'mergeField' ? sayMerge(inline.attrs) : ' ';
    })
    .join('');
}

export function* mergeFieldsOf(blocks: readonly (TextBlock | Inline)[]): Generator<MergeField> {
  for (const inline of inlinesOf(blocks)) if (inline.type === 'mergeField') yield inline;
}

/** The beginning of a text, at most `most` UTF-16 units long. A character is never cut in two. */
export function cut(text: string, most: number): string {
  const short = text.slice(0, most);
  return /[\ud800-\udbff]$/.test(short) ? short.slice(0, -1) : short;
}

/** Inline text of one plain run. */
export function words(text: string): Inline[] {
  return text === '' ? [] : [{ type: 'text', text }];
}
