import { Command } from 'cmdk';
import { useEffect, useState } from 'react';
import { contactPageSchema, type PersonRecord } from '../../contract/people.ts';
import { useApi } from '../data/api.ts';
import { Initials } from './person.tsx';

/** Finds people by name or address on the server. Arrow keys move, Enter chooses. */
export function PersonSearch({
  label,
  onChoose,
  first,
}: {
  label: string;
  onChoose: (person: PersonRecord) => void;
  /** An entry, with its words as its value, that stands before the people while what is typed is part of them. */
  first?: { words: string; entry: React.ReactNode };
}) {
  const [search, setSearch] = useState('');
  const { data } = useApi(`/contacts?search=${encodeURIComponent(search)}`, contactPageSchema);
  const offersFirst = first?.words.includes(search.trim().toLowerCase()) ?? false;
  const people = data?.contacts.slice(0, 30) ?? [];
  const top = offersFirst && first ? first.words : String(people[0]?.id ?? '');
  const [marked, setMarked] = useState(top);
  // What Enter chooses is always in the list: when the list changes, its top.
  useEffect(() => setMarked(top), [top]);
  return (
    <Command
      shouldFilter={false}
      label={label}
      value={marked}
      onValueChange={setMarked}
      className="flex max-h-[360px] flex-col"
    >
      <Command.Input
        value={search}
        onValueChange={setSearch}
        placeholder="Name or email address"
        className="mb-1 h-9 rounded-md border border-line bg-paper px-3"
      />
      <Command.List className="overflow-y-auto">
        {offersFirst && first?.entry}
        {people.map((person) => (
          <Command.Item
            key={person.id}
            value={String(person.id)}
            onSelect={() => onChoose(person)}
            className="flex cursor-pointer items-center gap-2.5 rounded-md px-2 py-1.5 data-[selected=true]:bg-linen"
          >
            <Initials name={person.name} />
            <span className="min-w-0">
              <span className="block truncate">{person.name}</span>
              <span className="block truncate text-[12px] leading-4 text-quiet">{person.email}</span>
            </span>
          </Command.Item>
        ))}
        {data?.contacts.length === 0 && <p className="px-2 py-3 text-quiet">Nobody is called that.</p>}
      </Command.List>
    </Command>
  );
}
