import { lateList } from './late-list.tsx';
import type { PersonSearchProps } from './people-found.tsx';

/** Finds people by name or address on the server. Arrow keys move, Enter chooses. */
export const PersonSearch = lateList<PersonSearchProps>(
  async () => (await import('./people-found.tsx')).Found,
  () => 'Name or email address',
  'mb-1 h-9 rounded-md border border-line bg-paper px-3',
);
