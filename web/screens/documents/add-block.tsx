import type { ReactNode } from 'react';
import type { Block, DocumentKind } from '../../../core/documents/document.ts';
import { PickList } from '../../parts/pick-list.tsx';
import { Popover } from '../../parts/popover.tsx';
import { addableTo } from './blocks/blocks.ts';

/** A button that lists the kinds of block a document can hold, to choose one from. */
export function AddBlock({
  label,
  kind,
  isItemPage,
  trigger,
  open,
  onOpenChange,
  onAdd,
  onClosed,
}: {
  label: string;
  kind: DocumentKind;
  isItemPage: boolean;
  trigger: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  onAdd: (kind: Block['kind']) => void;
  /** Gives the focus to where it belongs once the list is closed; the button has it otherwise. */
  onClosed?: () => void;
}) {
  const addable = addableTo(kind, isItemPage);
  return (
    <Popover
      label={label}
      className="w-[220px] p-2"
      open={open}
      onOpenChange={onOpenChange}
      trigger={trigger}
      {...(onClosed && { onClosed })}
    >
      <PickList
        label="Which block?"
        groups={addable}
        onChoose={(id) => {
          const chosen = addable.flatMap(({ options }) => options).find((option) => option.id === id);
          onOpenChange(false);
          if (chosen) onAdd(chosen.id);
        }}
      />
    </Popover>
  );
}
