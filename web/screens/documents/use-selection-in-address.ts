import { useEffect, useRef } from 'react';
import { type Content, findNode } from '../../../core/documents/document.ts';
import { fromAddress, keepInAddress } from '../../data/address.ts';

/** Keeps in the address which block is chosen, and begins with the one that a link names. */
export function useSelectionInAddress(
  content: Content,
  selected: string | null,
  choose: (id: string) => void,
): void {
  const linked = useRef(fromAddress('block'));
  useEffect(() => {
    const { current } = linked;
    linked.current = undefined;
    if (current !== undefined && findNode(content, current)) choose(current);
    else keepInAddress({ block: selected });
  }, [content, selected, choose]);
}
