import { Command } from 'cmdk';

export interface PickOption {
  id: string;
  label: string;
  note?: string;
}

/** A searchable list to choose one thing from. Arrow keys move, Enter chooses. */
export function PickList({
  label,
  groups,
  onChoose,
}: {
  label: string;
  groups: readonly { heading: string; options: readonly PickOption[] }[];
  onChoose: (id: string) => void;
}) {
  return (
    <Command label={label} className="flex max-h-[340px] flex-col">
      <Command.Input
        placeholder={label}
        className="mb-1 h-9 shrink-0 rounded-md border border-line bg-paper px-3"
      />
      <Command.List className="overflow-y-auto">
        <Command.Empty className="px-2 py-3 text-quiet">Nothing is called that.</Command.Empty>
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
                  value={`${option.label} ${option.id}`}
                  onSelect={() => onChoose(option.id)}
                  className="flex cursor-pointer items-baseline gap-2 rounded-md px-2 py-1.5 data-[selected=true]:bg-linen"
                >
                  <span className="min-w-0 flex-1 truncate">{option.label}</span>
                  {option.note !== undefined && <span className="text-[12px] text-quiet">{option.note}</span>}
                </Command.Item>
              ))}
            </Command.Group>
          ))}
      </Command.List>
    </Command>
  );
}
