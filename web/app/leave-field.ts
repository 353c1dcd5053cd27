import { useEffect } from 'react';

/**
 * Escape leaves any field alike: what was typed stays, and the keyboard goes on from the part of the screen around it.
 * Dialogs and popovers close by it instead, as do fields that have something of their own to leave.
 */
export function useLeaveFieldByEscape(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event;
      if (event.key !== 'Escape' || event.defaultPrevented || !(target instanceof HTMLElement)) return;
      if (!['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)) return;
      if (target.closest('[role=dialog], [role=menu]')) return;
      target.blur();
      const around = target.closest<HTMLElement>('[tabindex], main');
      around?.focus({ preventScroll: true });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
