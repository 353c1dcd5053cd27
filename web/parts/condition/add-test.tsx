import { type ReactNode, useState } from 'react';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { Test } from '../../../core/conditions/condition.ts';
import { Popover } from '../popover.tsx';
import { AttributePicker } from './attribute-picker.tsx';
import { startingTest } from './starting-test.ts';

/** Begins a new test with the choice of its attribute. */
export function AddTest({
  catalogue,
  sources,
  label,
  trigger,
  onAdd,
}: {
  catalogue: Catalogue;
  /** Where attributes may come from; anywhere when not given. */
  sources?: readonly Attribute['source'][] | undefined;
  label: string;
  trigger: ReactNode;
  onAdd: (test: Test) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={label}
      handsOver
      className="w-[580px] p-2"
      open={open}
      onOpenChange={setOpen}
      trigger={trigger}
    >
      <AttributePicker
        catalogue={catalogue}
        {...(sources && { sources })}
        onChoose={(attribute) => {
          setOpen(false);
          onAdd(startingTest(attribute, catalogue));
        }}
      />
    </Popover>
  );
}
