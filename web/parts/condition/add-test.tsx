import { type ReactNode, useState } from 'react';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { Popover } from '../popover.tsx';
import { AttributePicker } from './attribute-picker.tsx';
import { startingTest } from './starting-test.ts';

/** Begins a new test with the choice of its attribute. */
export function AddTest({
  catalogue,
  label,
  trigger,
  onAdd,
}: {
  catalogue: Catalogue;
  label: string;
  trigger: ReactNode;
  onAdd: (test: Test) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={label}
      handsOver
      className="w-[320px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={trigger}
    >
      <AttributePicker
        catalogue={catalogue}
        onChoose={(attribute) => {
          setOpen(false);
          onAdd(startingTest(attribute, catalogue));
        }}
      />
    </Popover>
  );
}
