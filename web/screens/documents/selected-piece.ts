import type { Editor } from '@tiptap/core';
import type { Node } from '@tiptap/pm/model';

/**
 * The piece of a kind that is selected by itself; undefined where more is selected with it. A selection may hold several
 * pieces of one kind, and a change meant for one of them must not reach the others.
 */
export function selectedPiece(editor: Editor, kind: string): Node | undefined {
  const { from, to } = editor.state.selection;
  const node = editor.state.doc.nodeAt(from);
  return node?.type.name === kind && from + node.nodeSize === to ? node : undefined;
}
