import { Command } from 'cmdk';
import { useContext, useEffect, useState } from 'react';
import { contactPageSchema, type PersonRecord } from '../../contract/people.ts';
import { useApi } from '../data/api.ts';
import { EnteredBefore } from './late-list.tsx';
import { Initials } from './person.tsx';

const entry = 'flex cursor-pointer items-center gap-2.5 rounded-md px-2 py-1.5 data-[selected=true]:bg-linen';
const anonymous = 'anonymous';

export interface PersonSearchProps {
  label: string;
  onChoose: (person: PersonRecord) => void;
  /** Offers an anonymous viewer, listed first while the search matches the word. */
  onAnonymous?: () => void;
}

/** People who are found, with what was typed before the list was here. */
export function Found({ label, onChoose, onAnonymous, typed }: PersonSearchProps & { typed: string }) {
  const [search, setSearch] = useState(typed);
  const { data, isLoading } = useApi(`/contacts?search=${encodeURIComponent(search)}`, contactPageSchema);
  const offersAnonymous = onAnonymous !== undefined && anonymous.includes(search.trim().toLowerCase());
  const people = data?.contacts.slice(0, 30) ?? [];
  const top = offersAnonymous ? anonymous : String(people[0]?.id ?? '');
  const [marked, setMarked] = useState(top);
  // What Enter chooses is always in the list: when the list changes, its top.
  useEffect(() => setMarked(top), [top]);
  /** Whether Enter was pressed while the people in the list were those of an earlier search. */
  const [isAwaited, setIsAwaited] = useState(useContext(EnteredBefore));
  useEffect(() => {
    if (!isAwaited || isLoading) return;
    setIsAwaited(false);
    const [first] = data?.contacts ?? [];
    if (offersAnonymous) onAnonymous?.();
    else if (first) onChoose(first);
  }, [isAwaited, isLoading, data, offersAnonymous, onAnonymous, onChoose]);
  return (
    <Command
      shouldFilter={false}
      label={label}
      value={marked}
      onValueChange={setMarked}
      className="flex max-h-[360px] flex-col"
      onKeyDownCapture={(event) => {
        if (event.key !== 'Enter' || !isLoading || event.nativeEvent.isComposing) return;
        event.preventDefault();
        event.stopPropagation();
        setIsAwaited(true);
      }}
    >
      <Command.Input
        autoFocus
        value={search}
        onValueChange={(words) => {
          setSearch(words);
          setIsAwaited(false);
        }}
        placeholder="Name or email address"
        className="mb-1 h-9 rounded-md border border-line bg-paper px-3"
      />
      <Command.List className="overflow-y-auto">
        {offersAnonymous && (
          <Command.Item value={anonymous} onSelect={onAnonymous} className={entry}>
            <Initials name={null} />
            <span>
              Anonymous <span className="text-quiet">— signed out, not a contact</span>
            </span>
          </Command.Item>
        )}
        {people.map((person) => (
          <Command.Item
            key={person.id}
            value={String(person.id)}
            onSelect={() => onChoose(person)}
            className={entry}
          >
            <Initials name={person.name} />
            <span className="min-w-0">
              <span className="block truncate">{person.name}</span>
              <span className="block truncate text-[12px] leading-4 text-quiet">{person.email}</span>
            </span>
          </Command.Item>
        ))}
        {data?.contacts.length === 0 && <p className="px-2 py-3 text-quiet">No matches.</p>}
      </Command.List>
    </Command>
  );
}
