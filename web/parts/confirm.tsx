import { AlertDialog } from 'radix-ui';
import { useRef } from 'react';
import { Button } from './button.tsx';
import { goBackTo } from './dialog.tsx';

/** Asks before something that can't be undone: what goes, and how much of it. It begins at the way out. */
export function Confirm({
  open,
  title,
  description,
  action,
  cancel = 'Cancel',
  onConfirm,
  onClose,
}: {
  open: boolean;
  title: string;
  description: string;
  /** What the button says that does it. */
  action: string;
  cancel?: string;
  onConfirm: () => void | Promise<void>;
  onClose: () => void;
}) {
  const before = useRef<Element>(null);
  return (
    <AlertDialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content
          onOpenAutoFocus={() => {
            before.current = document.activeElement;
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            goBackTo(before.current);
          }}
          className="fixed left-1/2 top-1/2 z-50 flex max-h-[88vh] w-[560px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 flex-col rounded-md border border-line bg-paper px-6 py-5 shadow-soft"
        >
          <AlertDialog.Title className="font-display text-xl font-semibold leading-7">
            {title}
          </AlertDialog.Title>
          <AlertDialog.Description className="mt-1 text-quiet">{description}</AlertDialog.Description>
          <div className="flex justify-end gap-2 pt-4">
            <AlertDialog.Cancel asChild>
              <Button>{cancel}</Button>
            </AlertDialog.Cancel>
            <Button look="danger" onClick={onConfirm}>
              {action}
            </Button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
