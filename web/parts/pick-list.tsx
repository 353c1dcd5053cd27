import type { ReactNode } from 'react';
import { lateList } from './late-list.tsx';

export interface PickOption {
  id: string;
  label: string;
  note?: string;
}

export interface PickListProps {
  label: string;
  groups: readonly { heading: string; options: readonly PickOption[] }[];
  onChoose: (id: string) => void;
  /** What stands beside the list about the option that the arrow keys or the pointer are on. */
  detail?: (id: string) => ReactNode;
}

/** A searchable list to choose one thing from. Arrow keys move, Enter chooses. */
export const PickList = lateList<PickListProps>(
  async () => (await import('./pick-list-found.tsx')).Found,
  ({ label }) => label,
  'mb-1 h-9 shrink-0 rounded-md border border-line bg-paper px-3',
);
