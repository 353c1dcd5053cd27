import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';

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

/** A button with the panel that it opens. */
export function PopoverPanel({
  trigger,
  children,
  open,
  onOpenChange,
  label,
  className = 'w-[320px] p-3',
  side = 'bottom',
  handsOver = false,
  onClosed,
}: PopoverProps) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={label}
          side={side}
          align="start"
          sideOffset={6}
          onCloseAutoFocus={(event) => {
            if (handsOver || onClosed) event.preventDefault();
            onClosed?.();
          }}
          collisionPadding={{ top: 56, bottom: 66, left: 8, right: 8 }}
          className={`z-50 max-w-[94vw] max-h-[var(--radix-popover-content-available-height)] overflow-y-auto rounded-md border border-line bg-paper shadow-soft ${className}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
