import { Dialog } from 'radix-ui';
import { lateList } from '../parts/late-list.tsx';
import type { CommandsProps } from './commands-found.tsx';

const Found = lateList<CommandsProps>(
  async () => (await import('./commands-found.tsx')).Found,
  () => 'Search people, audiences, pages, emails and commands',
  'h-12 border-b border-line bg-paper px-4 outline-none',
);

/** Find anything, or do anything, from the keyboard. */
export function Commands({ open, ...actions }: CommandsProps & { open: boolean }) {
  const { onClose } = actions;
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-label="Search or run a command"
          aria-describedby={undefined}
          className="fixed left-1/2 top-[14vh] z-50 w-[560px] max-w-[94vw] -translate-x-1/2 overflow-hidden rounded-md border border-line bg-paper shadow-soft"
        >
          <Dialog.Title className="sr-only">Search or run a command</Dialog.Title>
          <Found {...actions} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
