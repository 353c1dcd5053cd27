import { z } from 'zod';
import { type BlockKind, blockFields } from './kind.ts';

// Blocks that are to be looked at.

/** The id of a file that was brought in. */
export const fileIdSchema = z.string().regex(/^[\w-]{6,40}$/);

/** The shapes that a picture can be cropped to, as width to height. */
export const pictureRatios = ['16-9', '3-2', '1-1', '3-4'] as const;
/** The side of a cropped picture that stays in view; the middle where none is given. */
export const pictureSides = ['top', 'bottom', 'left', 'right'] as const;

export const pictureSchema = z.object({
  kind: z.literal('picture'),
  ...blockFields,
  /** The name of a drawing of the library; of no effect where a file is given. */
  picture: z.string().regex(/^[a-z0-9-]{1,60}$/),
  file: fileIdSchema.nullable().optional(),
  alt: z.string().max(300),
  /** On pages; an email shows the whole picture. */
  ratio: z.enum(pictureRatios).optional(),
  keeps: z.enum(pictureSides).optional(),
});

export const picture: BlockKind<z.infer<typeof pictureSchema>> = {
  fresh: (newId) => ({ kind: 'picture', id: newId(), picture: 'moon', alt: '' }),
  words: ({ alt }) => alt,
  files: ({ file }) => (file ? [file] : []),
  unreleasable: ({ file, picture: name }, { hasPicture }) =>
    !file && !hasPicture(name) ? [`There is no picture “${name}”`] : [],
};

export const videoSchema = z.object({
  kind: z.literal('video'),
  ...blockFields,
  file: fileIdSchema.nullable(),
  /** What it shows, in words. */
  caption: z.string().max(300),
});

export const video: BlockKind<z.infer<typeof videoSchema>> = {
  fresh: (newId) => ({ kind: 'video', id: newId(), file: null, caption: '' }),
  words: ({ caption }) => caption,
  pageOnly: 'A video',
  files: ({ file }) => (file ? [file] : []),
  unreleasable: ({ file }) => (file ? [] : ['A video has no file yet']),
};
