import { Late } from '../../parts/late.ts';

/**
 * What words are edited with. It is most of what the canvas needs, and nobody needs it before they are about to write: it is
 * fetched when a pointer or a key comes near.
 */
export const textEditor = new Late(async () => {
  const [editor] = await Promise.all([import('./block-text.tsx'), import('./text-tools.tsx')]);
  return editor;
});
