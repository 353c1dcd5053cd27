import { Popover as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** A button that opens a small panel beside it. */
export function Popover({
  trigger,
  children,
  open,
  onOpenChange,
  label,
  className = 'w-[320px] p-3',
  handsOver = false,
  onClosed,
}: {
  trigger: ReactNode;
  children: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  label: string;
  className?: string;
  /** Closing leads straight to another control, which takes the focus. */
  handsOver?: boolean;
  /** Gives the focus to where it belongs then, which is not the button. */
  onClosed?: () => void;
}) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          aria-label={label}
          align="start"
          sideOffset={6}
          onCloseAutoFocus={(event) => {
            if (handsOver || onClosed) event.preventDefault();
            onClosed?.();
          }}
          collisionPadding={{ top: 56, bottom: 66, left: 8, right: 8 }}
          className={`z-50 max-h-[var(--radix-popover-content-available-height)] overflow-y-auto rounded-md border border-line bg-paper shadow-soft ${className}`}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
