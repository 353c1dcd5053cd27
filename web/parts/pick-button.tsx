import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { Button } from './button.tsx';
import { PickList } from './pick-list.tsx';
import { Popover } from './popover.tsx';

/** A button that does something with one of several things, which it asks for. */
export function PickButton({
  label,
  options,
  onChoose,
}: {
  label: string;
  options: readonly { id: string; label: string }[];
  onChoose: (id: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={label}
      className="w-[260px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button className="w-full text-quiet">
          <span className="min-w-0 flex-1 truncate text-left">{label}</span>
          <ChevronDown size={14} className="shrink-0" aria-hidden />
        </Button>
      }
    >
      <PickList
        label="Which one?"
        groups={[{ heading: '', options }]}
        onChoose={(id) => {
          setOpen(false);
          onChoose(id);
        }}
      />
    </Popover>
  );
}
