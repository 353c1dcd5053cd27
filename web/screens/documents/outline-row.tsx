import { useDraggable, useDroppable } from '@dnd-kit/core';
import { Monitor, Smartphone } from 'lucide-react';
import { memo, useRef } from 'react';
import type { ScreenWidth } from '../../../core/documents/blocks/kind.ts';
import type { Node } from '../../../core/documents/document.ts';
import type { NodeStep } from '../../../core/documents/edit.ts';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { kindIcon } from './blocks/blocks.ts';
import { stepOf } from './node-steps.ts';

/** A block in the outline: a press chooses it, a pull or Alt and an arrow key moves it. */
export const OutlineRow = memo(function OutlineRow({
  id,
  depth,
  isSelected,
  kind,
  label,
  screens,
  choice,
  onSelect,
  onStep,
}: {
  id: string;
  depth: number;
  isSelected: boolean;
  kind: Node['kind'];
  label: string;
  /** On which screens only it is shown. */
  screens: ScreenWidth | undefined;
  /** Of a slot, which of its choices is on screen. */
  choice: number | undefined;
  onSelect: (id: string, more: boolean) => void;
  onStep: (id: string, step: NodeStep) => void;
}) {
  const isFixed = kind === 'line';
  const Icon = kindIcon(kind);
  const { setNodeRef: setDragged, listeners, isDragging } = useDraggable({ id, disabled: isFixed });
  const { setNodeRef: setOver, isOver } = useDroppable({ id, disabled: isFixed });
  const button = useRef<HTMLButtonElement>(null);
  return (
    <button
      ref={(element) => {
        button.current = element;
        setDragged(element);
        setOver(element);
      }}
      {...listeners}
      data-row={id}
      type="button"
      aria-current={isSelected || undefined}
      title="Alt and the arrow keys move it; Shift and a click choose several"
      onClick={(event) => onSelect(id, event.shiftKey || event.ctrlKey || event.metaKey)}
      onKeyDown={(event) => {
        const step = stepOf(event);
        if (!step || isFixed) return;
        event.preventDefault();
        onStep(id, step);
        // It stands elsewhere after this; the keyboard goes with it.
        requestAnimationFrame(() => button.current?.focus());
      }}
      style={{ paddingLeft: `${8 + depth * 14}px` }}
      className={`flex h-7 w-full items-center gap-2 rounded-md border pr-1.5 text-left ${isSelected ? 'border-line bg-paper' : 'border-transparent hover:bg-paper/60'} ${isOver ? 'border-t-2 border-t-leaf' : ''} ${isDragging ? 'opacity-50' : ''}`}
    >
      <Icon size={14} className="shrink-0 text-quiet" aria-hidden />
      <span className="min-w-0 flex-1 truncate">{label}</span>
      {screens && <ScreensMark screens={screens} />}
      {choice !== undefined && <VariantMark choice={choice} />}
    </button>
  );
});

function ScreensMark({ screens }: { screens: ScreenWidth }) {
  const Icon = screens === 'narrow' ? Smartphone : Monitor;
  return <Icon size={13} className="shrink-0 text-quiet" aria-label={`on ${screens} screens only`} />;
}
