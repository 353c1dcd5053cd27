import { z } from 'zod';
import { cut } from '../text.ts';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks whose content comes from elsewhere.

/** HTML from elsewhere, sanitised when it is stored. */
export const htmlSchema = z.object({
  kind: z.literal('html'),
  ...blockFields,
  html: z.string().max(200_000),
});

/** A picture in HTML that is asked for at another server, which pages of the site are not allowed to do. */
const outsidePicture = /<(?:img|source)\b[^>]*?\bsrc(?:set)?\s*=\s*["']?\s*((?:https?:)?\/\/[^\s"'>]*)/i;

export const html: BlockKind<z.infer<typeof htmlSchema>> = {
  fresh: (newId) => ({ kind: 'html', id: newId(), html: '<p>HTML from elsewhere</p>' }),
  pageOnly: 'HTML from elsewhere',
  unsavable({ html: markup }) {
    const [, outside] = outsidePicture.exec(markup) ?? [];
    return outside === undefined
      ? []
      : [
          `The picture at ${cut(outside, 60)} is on another server and would not be shown. Bring it in as a file, or leave it out`,
        ];
  },
};

/** A piece of shared content, see shared.ts. */
export const sharedSchema = z.object({
  kind: z.literal('shared'),
  ...blockFields,
  document: z.string().max(64),
});

export const shared: BlockKind<z.infer<typeof sharedSchema>> = {
  fresh: (newId) => ({ kind: 'shared', id: newId(), document: '' }),
  unreleasable: ({ document }, { hasPiece }) =>
    hasPiece(document) ? [] : ['A piece of shared content is not chosen, or gone'],
};
