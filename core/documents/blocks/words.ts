import { z } from 'zod';
import {
  inlinesSchema,
  inlinesWith,
  mapInlines,
  paragraphsOf,
  plainInline,
  textBlockSchema,
  textWith,
} from '../text.ts';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that are words.

export const headingSchema = z.object({
  kind: z.literal('heading'),
  ...blockFields,
  level: z.union([z.literal(1), z.literal(2), z.literal(3)]),
  content: inlinesSchema,
});

export const heading: BlockKind<z.infer<typeof headingSchema>> = {
  fresh: (newId) => ({
    kind: 'heading',
    id: newId(),
    level: 2,
    content: [{ type: 'text', text: 'New heading' }],
  }),
  words: ({ content }, say) => plainInline(content, say),
  text: {
    of: ({ content }) => content,
    map: (block, change) => ({ ...block, content: mapInlines(block.content, change) }),
    write: (block, words, isInstead) => ({ ...block, content: inlinesWith(block.content, words, isInstead) }),
  },
};

export const textSchema = z.object({
  kind: z.literal('text'),
  ...blockFields,
  content: z.array(textBlockSchema).max(2000),
});

export const text: BlockKind<z.infer<typeof textSchema>> = {
  fresh: (newId) => ({
    kind: 'text',
    id: newId(),
    content: [{ type: 'paragraph', content: [{ type: 'text', text: 'New text' }] }],
  }),
  words({ content }, say) {
    const [first] = content.flatMap((block) => paragraphsOf(block));
    return plainInline(first?.content ?? [], say);
  },
  text: {
    of: ({ content }) => content,
    map: (block, change) => ({ ...block, content: mapInlines(block.content, change) }),
    write: (block, words, isInstead) => ({ ...block, content: textWith(block.content, words, isInstead) }),
  },
};

/** One line of text without marks: an email's subject or preview line, a page's title. */
export const lineSchema = z.object({ kind: z.literal('line'), ...blockFields, content: inlinesSchema });

export const line: BlockKind<z.infer<typeof lineSchema>> = {
  fresh: (newId) => ({ kind: 'line', id: newId(), content: [] }),
  words: ({ content }, say) => plainInline(content, say),
  text: {
    of: ({ content }) => content,
    map: (block, change) => ({ ...block, content: mapInlines(block.content, change) }),
    write: (block, words, isInstead) => ({ ...block, content: inlinesWith(block.content, words, isInstead) }),
  },
};

export const quotationSchema = z.object({
  kind: z.literal('quotation'),
  ...blockFields,
  content: inlinesSchema,
  /** Who said it. */
  by: z.string().max(200),
});

export const quotation: BlockKind<z.infer<typeof quotationSchema>> = {
  fresh: (newId) => ({
    kind: 'quotation',
    id: newId(),
    content: [{ type: 'text', text: 'What somebody said' }],
    by: '',
  }),
  words: ({ content }, say) => plainInline(content, say),
  text: {
    of: ({ content }) => content,
    map: (block, change) => ({ ...block, content: mapInlines(block.content, change) }),
    write: (block, words, isInstead) => ({ ...block, content: inlinesWith(block.content, words, isInstead) }),
  },
};
