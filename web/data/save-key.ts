import { useEffect } from 'react';

/** Ctrl/Cmd+S stores what is being written in, from anywhere on the screen; the browser's own dialog stays away. */
export function useSaveKey(save: () => unknown): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey || event.key.toLowerCase() !== 's') return;
      event.preventDefault();
      if (!event.repeat) save();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [save]);
}
