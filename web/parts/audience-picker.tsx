import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../contract/audiences.ts';
import { useSayPeople } from '../data/counts.ts';
import { Button } from './button.tsx';
import { PickList } from './pick-list.tsx';
import { Popover } from './popover.tsx';

/** The audiences, each with how many people are in it. */
export function AudiencePicker({
  audiences,
  onChoose,
}: {
  audiences: readonly ListedAudience[];
  onChoose: (audience: string) => void;
}) {
  const sayPeople = useSayPeople();
  return (
    <PickList
      label="Which audience?"
      groups={[
        {
          heading: 'Audiences',
          options: audiences.map((audience) => ({
            id: audience.id,
            label: audience.name,
            note: sayPeople(audience),
          })),
        },
      ]}
      onChoose={onChoose}
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
