import { z } from 'zod';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that arrange others.

export const tones = ['plain', 'panel', 'accent', 'warm'] as const;

/** A section as it is at first; what stands in it see document.ts. */
interface FreshSection {
  kind: 'section';
  id: string;
  name: string;
  tone: (typeof tones)[number];
  layout: 'stack' | 'row';
  children: never[];
}

export const section: BlockKind<FreshSection> = {
  fresh: (newId) => ({
    kind: 'section',
    id: newId(),
    name: 'Section',
    tone: 'panel',
    layout: 'stack',
    children: [],
  }),
};

export const dividerSchema = z.object({ kind: z.literal('divider'), ...blockFields });

export const divider: BlockKind<z.infer<typeof dividerSchema>> = {
  fresh: (newId) => ({ kind: 'divider', id: newId() }),
};

export const spacerSizes = ['small', 'medium', 'large'] as const;
export const spacerSchema = z.object({
  kind: z.literal('spacer'),
  ...blockFields,
  size: z.enum(spacerSizes),
});

export const spacer: BlockKind<z.infer<typeof spacerSchema>> = {
  fresh: (newId) => ({ kind: 'spacer', id: newId(), size: 'medium' }),
};
