import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';

export interface MenuAction {
  readonly label: string;
  readonly icon: ReactNode;
  readonly onChoose: () => void;
  /** Whether it removes something. */
  readonly removes?: boolean;
}

/** A button with a menu of actions. */
export function Menu({ trigger, actions }: { trigger: ReactNode; actions: readonly MenuAction[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          collisionPadding={8}
          className="z-50 min-w-44 rounded-md border border-line bg-paper p-1 shadow-soft"
        >
          {actions.map(({ label, icon, onChoose, removes }) => (
            <DropdownMenu.Item
              key={label}
              onSelect={onChoose}
              className={`flex cursor-pointer items-center gap-2 rounded-md px-2 py-1.5 outline-none data-[highlighted]:bg-linen ${removes ? 'text-apple' : ''}`}
            >
              {icon} {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
