import { z } from 'zod';
import { inlinesSchema, inlinesWith, mapInlines, plainInline } from '../text.ts';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that lead somewhere.

export const buttonSchema = z.object({
  kind: z.literal('button'),
  ...blockFields,
  label: inlinesSchema,
  address: z.string().max(2000),
});

export const button: BlockKind<z.infer<typeof buttonSchema>> = {
  fresh: (newId) => ({
    kind: 'button',
    id: newId(),
    label: [{ type: 'text', text: 'New button' }],
    address: '/site/',
  }),
  words: ({ label }, say) => plainInline(label, say),
  addresses: ({ address }) => [address],
  unreleasable: ({ address }) => (address === '' ? ['A button has no address'] : []),
  text: {
    of: ({ label }) => label,
    map: (block, change) => ({ ...block, label: mapInlines(block.label, change) }),
    write: (block, words, isInstead) => ({ ...block, label: inlinesWith(block.label, words, isInstead) }),
  },
};

export const linkSchema = z.object({
  kind: z.literal('link'),
  ...blockFields,
  label: inlinesSchema,
  address: z.string().max(2000),
});

export const link: BlockKind<z.infer<typeof linkSchema>> = {
  fresh: (newId) => ({
    kind: 'link',
    id: newId(),
    label: [{ type: 'text', text: 'New link' }],
    address: '/site/',
  }),
  words: ({ label }, say) => plainInline(label, say),
  addresses: ({ address }) => [address],
  unreleasable: ({ address }) => (address === '' ? ['A link has no address'] : []),
  text: {
    of: ({ label }) => label,
    map: (block, change) => ({ ...block, label: mapInlines(block.label, change) }),
    write: (block, words, isInstead) => ({ ...block, label: inlinesWith(block.label, words, isInstead) }),
  },
};

/** Links as they are at first; what else may be among them see document.ts. */
interface FreshLinks {
  kind: 'links';
  id: string;
  name: string;
  look: 'list' | 'menu';
  children: z.infer<typeof linkSchema>[];
}

export const links: BlockKind<FreshLinks> = {
  fresh: (newId) => ({
    kind: 'links',
    id: newId(),
    name: 'Links',
    look: 'list',
    children: [link.fresh(newId)],
  }),
};
