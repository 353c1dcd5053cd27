import { Popover } from 'radix-ui';
import type { PopoverProps } from './popover.tsx';

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
          className={`z-50 max-h-[var(--radix-popover-content-available-height)] overflow-y-auto rounded-md border border-line bg-paper shadow-soft ${className}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
