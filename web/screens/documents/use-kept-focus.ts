import { useEffect, useRef } from 'react';
import { useLocation } from 'react-router';

/**
 * Keeps the keyboard in the work: a new document begins where blocks are added, and who stops writing, or removes what
 * the focus was in, goes on from the outline.
 */
export function useKeptFocus(isWriting: boolean, selected: string | null): void {
  const { state } = useLocation();
  const isNew = useRef(state === 'new');
  useEffect(() => {
    const adds =
      isNew.current && document.querySelector<HTMLElement>('nav[aria-label="Blocks"] [aria-haspopup]');
    if (!adds) return;
    isNew.current = false;
    adds.focus();
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever what is selected or written in has changed
  useEffect(() => {
    // After whatever takes the focus with this change has done so.
    const waiting = requestAnimationFrame(() => {
      if (isWriting || (document.activeElement !== null && document.activeElement !== document.body)) return;
      const blocks = document.querySelector('nav[aria-label="Blocks"]');
      const row =
        blocks?.querySelector<HTMLElement>('[aria-current]') ??
        blocks?.querySelector<HTMLElement>('[aria-haspopup]');
      row?.focus({ preventScroll: true });
    });
    return () => cancelAnimationFrame(waiting);
  }, [isWriting, selected]);
}
