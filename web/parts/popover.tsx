import { Slot } from 'radix-ui';
import { useEffect, useRef } from 'react';
import { late, useLate } from './late.ts';
import { TypedBefore } from './late-list.tsx';
import type { PopoverProps } from './popover-panel.tsx';

const panel = late(async () => (await import('./popover-panel.tsx')).PopoverPanel);

/** A button that opens a small panel beside it. */
export function Popover(props: PopoverProps) {
  const { open, onOpenChange, trigger } = props;
  const Panel = useLate(panel, open);
  const typed = useTypedMeanwhile(open && !Panel, () => onOpenChange(false));
  useEffect(() => {
    // The next search begins with nothing.
    if (!open) typed.current = '';
  }, [open, typed]);
  if (Panel)
    return (
      <TypedBefore value={typed.current}>
        <Panel {...props} />
      </TypedBefore>
    );
  return (
    <Slot.Root aria-haspopup="dialog" aria-expanded={open} onClick={() => onOpenChange(!open)}>
      {trigger}
    </Slot.Root>
  );
}

/** Collects what is typed while a panel is awaited, so that its search begins with it. */
function useTypedMeanwhile(isWaiting: boolean, onEscape: () => void) {
  const typed = useRef('');
  const close = useRef(onEscape);
  close.current = onEscape;
  useEffect(() => {
    if (!isWaiting) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === 'Escape') close.current();
      else if (event.key === 'Backspace') typed.current = typed.current.slice(0, -1);
      else if (event.key.length === 1) typed.current += event.key;
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [isWaiting]);
  return typed;
}
