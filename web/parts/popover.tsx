import { Slot } from 'radix-ui';
import type { ReactNode } from 'react';
import { late, useLate } from './late.ts';

export interface PopoverProps {
  trigger: ReactNode;
  children: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  label: string;
  className?: string;
  /** Where it opens; below the button if it is not given. */
  side?: 'top' | 'bottom';
  /** Closing leads straight to another control, which takes the focus. */
  handsOver?: boolean;
  /** Gives the focus to where it belongs then, which is not the button. */
  onClosed?: () => void;
}

const panel = late(async () => (await import('./popover-panel.tsx')).PopoverPanel);

/** A button that opens a small panel beside it. */
export function Popover(props: PopoverProps) {
  const Panel = useLate(panel, props.open);
  if (Panel) return <Panel {...props} />;
  return (
    <Slot.Root
      aria-haspopup="dialog"
      aria-expanded={props.open}
      onClick={() => props.onOpenChange(!props.open)}
    >
      {props.trigger}
    </Slot.Root>
  );
}
