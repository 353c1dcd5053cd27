import type { ChainedCommands, Editor } from '@tiptap/core';

/**
 * Commands for a text, which has the keyboard again at once. The editor's own command for that waits for the next frame, and
 * what is typed until then would be lost.
 */
export function writingOn(editor: Editor): ChainedCommands {
  editor.view.focus();
  return editor.chain();
}
