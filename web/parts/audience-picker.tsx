import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../contract/audiences.ts';
import { useSayPeople } from '../data/counts.ts';
import { Button } from './button.tsx';
import { useMakeAudience } from './make-audience.ts';
import { PickList } from './pick-list.tsx';
import { Popover } from './popover.tsx';
import { noteRecentAudience, recentAudiences } from './recent-audiences.ts';

/** From how many audiences on those that were used last stand first. */
const manyAudiences = 7;

/** The audiences, each with how many people are in it; a new one can be made on the spot. */
export function AudiencePicker({
  audiences,
  onChoose,
}: {
  audiences: readonly ListedAudience[];
  onChoose: (audience: string) => void;
}) {
  const sayPeople = useSayPeople();
  const makeAudience = useMakeAudience();
  const [recent] = useState(recentAudiences);
  const options = audiences.map((audience) => ({
    id: audience.id,
    label: audience.name,
    note: sayPeople(audience),
  }));
  const usedLast =
    options.length < manyAudiences
      ? []
      : recent.flatMap((id) => options.find((option) => option.id === id) ?? []);
  const choose = (id: string) => {
    noteRecentAudience(id);
    onChoose(id);
  };
  return (
    <PickList
      label="Which audience?"
      groups={[
        { heading: 'Used last', options: usedLast },
        { heading: 'Audiences', options: options.filter((option) => !usedLast.includes(option)) },
      ]}
      onChoose={choose}
      {...(makeAudience && {
        make: {
          label: (typed) => (typed === '' ? 'New audience…' : `New audience “${typed}”…`),
          onMake: async (typed) => {
            const made = await makeAudience(typed);
            if (made !== undefined) choose(made);
          },
        },
      })}
    />
  );
}

/** A button that asks for an audience. */
export function AudienceButton({
  label,
  audiences,
  onChoose,
}: {
  label: string;
  audiences: readonly ListedAudience[];
  onChoose: (audience: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={label}
      className="w-[280px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={<Button icon={<Plus size={15} aria-hidden />}>{label}</Button>}
    >
      <AudiencePicker
        audiences={audiences}
        onChoose={(audience) => {
          setOpen(false);
          onChoose(audience);
        }}
      />
    </Popover>
  );
}
