import { X } from 'lucide-react';
import { Dialog as Radix } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import { IconButton } from './button.tsx';

/** Begins in the first field of a dialog where it has one, not at what closes it. */
function beginInField(event: Event): void {
  const { target } = event;
  if (!(target instanceof HTMLElement)) return;
  const field = target.querySelector<HTMLElement>(
    '[autofocus], input:not([type=hidden], [type=checkbox], [type=radio], :disabled), select, textarea',
  );
  if (!field) return;
  event.preventDefault();
  field.focus();
}

/** Goes back to where the keyboard was before a dialog, unless it went on to something else meanwhile. */
export function goBackTo(before: Element | null): void {
  if (document.activeElement !== null && document.activeElement !== document.body) return;
  const work = document.getElementById('work');
  const place =
    before instanceof HTMLElement && before.isConnected && before !== document.body ? before : work;
  place?.focus({ preventScroll: true });
}

/** Begins at the dialog as a whole, where no key presses anything. */
function beginAnywhere(event: Event): void {
  event.preventDefault();
  if (event.target instanceof HTMLElement) event.target.focus();
}

export function Dialog({
  open,
  onClose,
  title,
  description,
  wide = false,
  unasked = false,
  children,
}: {
  open: boolean;
  /** Not given where it can't be left without an answer. */
  onClose?: () => void;
  title: string;
  description?: string;
  wide?: boolean;
  /** Whether it opens without being asked for, possibly while somebody is typing. */
  unasked?: boolean;
  children: ReactNode;
}) {
  const before = useRef<Element>(null);
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose?.()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Radix.Content
          onOpenAutoFocus={(event) => {
            before.current = document.activeElement;
            if (unasked) beginAnywhere(event);
            else beginInField(event);
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            goBackTo(before.current);
          }}
          {...(description === undefined && { 'aria-describedby': undefined })}
          className={`fixed left-1/2 top-1/2 z-50 flex max-h-[88vh] -translate-x-1/2 -translate-y-1/2 flex-col rounded-md border border-line bg-paper shadow-soft ${wide ? 'w-[1000px]' : 'w-[560px]'} max-w-[94vw]`}
        >
          <div className="flex items-start gap-3 px-6 pt-5">
            <div className="flex-1">
              <Radix.Title className="font-display text-xl font-semibold leading-7">{title}</Radix.Title>
              {description !== undefined && (
                <Radix.Description className="mt-1 text-quiet">{description}</Radix.Description>
              )}
            </div>
            {onClose && (
              <Radix.Close asChild>
                <IconButton label="Close">
                  <X size={16} />
                </IconButton>
              </Radix.Close>
            )}
          </div>
          <div className="overflow-y-auto px-6 pb-6 pt-4">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
