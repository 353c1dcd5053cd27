import { Command } from 'cmdk';
import { Plus } from 'lucide-react';
import { type ReactNode, useContext, useEffect, useRef, useState } from 'react';
import { EnteredBefore } from './late-list.tsx';

interface PickOption {
  id: string;
  label: string;
  note?: string;
}

export interface PickListProps {
  label: string;
  groups: readonly { heading: string; options: readonly PickOption[] }[];
  onChoose: (id: string) => void;
  /** Where the list begins; at its first option if it is not given. */
  chosen?: string;
  /** What stands beside the list about the option that the arrow keys or the pointer are on. */
  detail?: (id: string) => ReactNode;
  /** Offered below everything that is found: makes what is not there yet, given what was typed. */
  make?: { label: (typed: string) => string; onMake: (typed: string) => void };
}

/** A searchable list, with what was typed before it was here. */
export function Found({
  label,
  groups,
  onChoose,
  chosen,
  detail,
  make,
  typed,
}: PickListProps & { typed: string }) {
  const options = groups.flatMap((group) => group.options);
  const [search, setSearch] = useState(typed);
  const [at, setAt] = useState(() => {
    const first = options.find(({ id }) => id === chosen) ?? options[0];
    return first ? keyOf(first) : '';
  });
  const current = options.find((option) => keyOf(option) === at);
  const isEntered = useContext(EnteredBefore);
  const root = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!isEntered) return;
    // Once what was typed is searched for.
    const searched = requestAnimationFrame(() =>
      root.current?.querySelector<HTMLElement>('[cmdk-item][aria-selected="true"]')?.click(),
    );
    return () => cancelAnimationFrame(searched);
  }, [isEntered]);
  const list = (
    <Command
      ref={root}
      label={label}
      value={at}
      onValueChange={setAt}
      filter={holdsWords}
      className="flex max-h-[340px] min-w-0 flex-col"
    >
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder={label}
        className="mb-1 h-9 shrink-0 rounded-md border border-line bg-paper px-3"
      />
      <Command.List className="overflow-y-auto">
        <Command.Empty className="px-2 py-3 text-quiet">No matches.</Command.Empty>
        {groups
          .filter((group) => group.options.length > 0)
          .map((group) => (
            <Command.Group
              key={group.heading}
              heading={group.heading}
              className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-quiet"
            >
              {group.options.map((option) => (
                <Command.Item
                  key={option.id}
                  value={keyOf(option)}
                  onSelect={() => onChoose(option.id)}
                  className="flex cursor-pointer items-baseline gap-2 rounded-md px-2 py-1.5 data-[selected=true]:bg-linen"
                >
                  <span className="min-w-0 flex-1 truncate first-letter:uppercase">{option.label}</span>
                  {option.note !== undefined && <span className="text-[12px] text-quiet">{option.note}</span>}
                </Command.Item>
              ))}
            </Command.Group>
          ))}
        {make && (
          <Command.Group forceMount className="mt-1 border-t border-line pt-1">
            <Command.Item
              forceMount
              value="make"
              onSelect={() => make.onMake(search.trim())}
              className="flex cursor-pointer items-center gap-2 rounded-md px-2 py-1.5 data-[selected=true]:bg-linen"
            >
              <Plus size={14} aria-hidden />{' '}
              <span className="min-w-0 truncate">{make.label(search.trim())}</span>
            </Command.Item>
          </Command.Group>
        )}
      </Command.List>
    </Command>
  );
  if (!detail) return list;
  return (
    <div className="grid grid-cols-[1fr_220px] gap-3">
      {list}
      <div aria-live="polite" className="overflow-hidden border-l border-line py-1 pl-3">
        {current && detail(current.id)}
      </div>
    </div>
  );
}

/** Every word that was typed is found, those at the start of a word first. */
function holdsWords(option: string, typed: string): number {
  const [text, words] = [option.toLowerCase(), typed.toLowerCase().trim().split(/\s+/)];
  if (!words.every((word) => text.includes(word))) return 0;
  return words.every((word) => text.startsWith(word) || text.includes(` ${word}`)) ? 1 : 0.5;
}

function keyOf({ label, id }: PickOption): string {
  return `${label} ${id}`;
}
