import { type RefObject, useEffect, useRef } from 'react';

/**
 * Brings the block that is selected into view on the canvas, unless it was pressed there: what somebody presses must not
 * move away from under the pointer.
 */
export function useInView(frame: RefObject<HTMLElement | null>, selected: string | null): void {
  const isPressed = useRef(false);
  useEffect(() => {
    const note = (event: Event) => {
      isPressed.current =
        event.type === 'pointerdown' &&
        event.target instanceof Node &&
        frame.current?.contains(event.target) === true;
    };
    document.addEventListener('pointerdown', note, true);
    document.addEventListener('keydown', note, true);
    return () => {
      document.removeEventListener('pointerdown', note, true);
      document.removeEventListener('keydown', note, true);
    };
  }, [frame]);
  useEffect(() => {
    if (selected === null || isPressed.current) return;
    for (const { shadowRoot } of frame.current?.children ?? [])
      shadowRoot
        ?.querySelector(`[data-block="${CSS.escape(selected)}"]`)
        ?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [frame, selected]);
}
