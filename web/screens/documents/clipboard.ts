import { useEffect, useRef } from 'react';
import { z } from 'zod';
import { type Node, nodeSchema } from '../../../core/documents/document.ts';
import { isInText } from '../../parts/in-text.ts';

const key = 'apple-porch-blocks';
const heldSchema = z.array(nodeSchema).max(200);

/** Blocks that were copied, in this window, from any page or email; empty where none were. */
export function heldBlocks(): Node[] {
  try {
    return heldSchema.parse(JSON.parse(sessionStorage.getItem(key) ?? '[]'));
  } catch {
    return [];
  }
}

/**
 * Copies, cuts and pastes blocks by the keys that are usual, unless words are being edited; a slash inserts a block while the
 * keyboard is on the canvas or nowhere.
 */
export function useBlockKeys(actions: {
  chosen: () => readonly Node[];
  remove: () => void;
  paste: (blocks: readonly Node[]) => void;
  insert: () => void;
}): void {
  const latest = useRef(actions);
  useEffect(() => {
    latest.current = actions;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === '/' && isOnCanvas(event)) {
        event.preventDefault();
        latest.current.insert();
        return;
      }
      if (!(event.ctrlKey || event.metaKey) || event.shiftKey || event.altKey || isInText(event)) return;
      const letter = event.key.toLowerCase();
      const { chosen, remove, paste } = latest.current;
      if (letter === 'c' || letter === 'x') {
        const blocks = chosen();
        if (blocks.length === 0 || window.getSelection()?.toString()) return;
        sessionStorage.setItem(key, JSON.stringify(blocks));
        if (letter === 'x') remove();
        event.preventDefault();
      } else if (letter === 'v') {
        const blocks = heldBlocks();
        if (blocks.length === 0) return;
        paste(blocks);
        event.preventDefault();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}

function isOnCanvas({ target, ctrlKey, metaKey, altKey }: KeyboardEvent): boolean {
  return (
    !(ctrlKey || metaKey || altKey) &&
    (target === document.body || (target instanceof HTMLElement && target.ariaLabel === 'Canvas'))
  );
}
