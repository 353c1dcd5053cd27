import { Slot } from 'radix-ui';
import { useEffect, useRef } from 'react';
import { late, useLate } from './late.ts';
import { EnteredBefore, TypedBefore } from './late-list.tsx';
import type { PopoverProps } from './popover-panel.tsx';

const typing = (words: string) => ({ words, isEntered: false });
const nothingTyped = typing('');
const panel = late(async () => (await import('./popover-panel.tsx')).PopoverPanel);

/** A button that opens a small panel beside it. */
export function Popover(props: PopoverProps) {
  const { open, onOpenChange, trigger } = props;
  const Panel = useLate(panel, open);
  const typed = useTypedMeanwhile(open && !Panel, () => onOpenChange(false));
  useEffect(() => {
    // The next search begins with nothing.
    if (!open) typed.current = nothingTyped;
  }, [open, typed]);
  if (Panel)
    return (
      <TypedBefore value={typed.current.words}>
        <EnteredBefore value={typed.current.isEntered}>
          <Panel {...props} />
        </EnteredBefore>
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
  const typed = useRef(nothingTyped);
  const close = useRef(onEscape);
  close.current = onEscape;
  useEffect(() => {
    if (!isWaiting) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === 'Escape') close.current();
      else if (event.key === 'Enter') typed.current = { ...typed.current, isEntered: true };
      else if (event.key === 'Backspace') typed.current = typing(typed.current.words.slice(0, -1));
      else if (event.key.length === 1) typed.current = typing(typed.current.words + event.key);
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [isWaiting]);
  return typed;
}
