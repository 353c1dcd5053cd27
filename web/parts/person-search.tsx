import type { PersonRecord } from '../../contract/people.ts';
import { lateList } from './late-list.tsx';

export interface PersonSearchProps {
  label: string;
  onChoose: (person: PersonRecord) => void;
  /** Offers to look as nobody, before the people while what is typed is part of the word. */
  onAnonymous?: () => void;
}

/** Finds people by name or address on the server. Arrow keys move, Enter chooses. */
export const PersonSearch = lateList<PersonSearchProps>(
  async () => (await import('./people-found.tsx')).Found,
  () => 'Name or email address',
  'mb-1 h-9 rounded-md border border-line bg-paper px-3',
);
