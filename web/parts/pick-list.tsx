import { lateList } from './late-list.tsx';
import type { PickListProps } from './pick-list-found.tsx';

/** A searchable list to choose one thing from. Arrow keys move, Enter chooses. */
export const PickList = lateList<PickListProps>(
  async () => (await import('./pick-list-found.tsx')).Found,
  ({ label }) => label,
  'mb-1 h-9 shrink-0 rounded-md border border-line bg-paper px-3',
);
