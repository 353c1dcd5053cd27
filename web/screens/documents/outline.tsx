import {
  DndContext,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { Plus } from 'lucide-react';
import { memo, useCallback, useRef, useState } from 'react';
import {
  type Block,
  type Content,
  type DocumentKind,
  firstWords,
  type Node,
} from '../../../core/documents/document.ts';
import type { NodeStep } from '../../../core/documents/edit.ts';
import { PickList } from '../../parts/pick-list.tsx';
import { Popover } from '../../parts/popover.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { addableTo, kindIcon, kindName } from './blocks/blocks.ts';

/** The blocks that the viewer gets, as a list; a slot shows the letter of the variant on screen. */
export function Outline({
  content,
  kind,
  isItemPage,
  choiceOf,
  selected,
  onSelect,
  onAdd,
  onMove,
}: {
  content: Content;
  kind: DocumentKind;
  isItemPage: boolean;
  choiceOf: (slot: string) => number;
  /** What is chosen: one, or several at once. */
  selected: readonly string[];
  /** `more` adds it to what is chosen. */
  onSelect: (id: string, more: boolean) => void;
  onAdd: (kind: Block['kind']) => void;
  onMove: (id: string, to: { before: string } | { step: NodeStep }) => void;
}) {
  // A click chooses; only a real pull drags. By keyboard blocks move with Alt and the arrows.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [adding, setAdding] = useState(false);
  // The same functions each time, so that of a thousand rows only those are drawn again that are other than before.
  const told = useRef({ onSelect, onMove });
  told.current = { onSelect, onMove };
  const select = useCallback((id: string, more: boolean) => told.current.onSelect(id, more), []);
  const step = useCallback((id: string, to: NodeStep) => told.current.onMove(id, { step: to }), []);
  const addable = addableTo(kind, isItemPage);
  const row = (node: Node, depth: number): React.ReactNode => {
    const choice = node.kind === 'slot' ? choiceOf(node.id) : undefined;
    const inside =
      node.kind === 'section' || node.kind === 'links'
        ? node.children
        : node.kind === 'slot'
          ? (node.variants[choice ?? -1]?.content ?? node.otherwise)
          : [];
    return (
      <li key={node.id}>
        <Row
          id={node.id}
          depth={depth}
          isSelected={selected.includes(node.id)}
          kind={node.kind}
          label={nodeLabel(node)}
          choice={choice}
          onSelect={select}
          onStep={step}
        />
        {node.kind === 'slot' && inside.length === 0 && (
          <p style={{ paddingLeft: `${30 + depth * 14}px` }} className="text-[12px] leading-5 text-quiet">
            nothing for this viewer
          </p>
        )}
        {inside.length > 0 && <ul>{inside.map((child) => row(child, depth + 1))}</ul>}
      </li>
    );
  };
  return (
    <nav aria-label="Blocks" className="flex flex-col">
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        onDragEnd={({ active, over }) => {
          if (over && active.id !== over.id) onMove(String(active.id), { before: String(over.id) });
        }}
      >
        <ul>{[...content.subject, ...content.preview, ...content.body].map((node) => row(node, 0))}</ul>
      </DndContext>
      <Popover
        label="Add a block"
        className="w-[220px] p-2"
        open={adding}
        onOpenChange={setAdding}
        trigger={
          <button
            type="button"
            className="mt-1 flex h-8 items-center gap-2 rounded-md px-2 text-quiet hover:bg-paper hover:text-ink"
          >
            <Plus size={15} aria-hidden /> Add a block
          </button>
        }
      >
        <PickList
          label="Which block?"
          groups={addable}
          onChoose={(id) => {
            const chosen = addable.flatMap(({ options }) => options).find((option) => option.id === id);
            setAdding(false);
            if (chosen) onAdd(chosen.id);
          }}
        />
      </Popover>
    </nav>
  );
}

const arrows: { [key: string]: NodeStep } = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
};

const Row = memo(function Row({
  id,
  depth,
  isSelected,
  kind,
  label,
  choice,
  onSelect,
  onStep,
}: {
  id: string;
  depth: number;
  isSelected: boolean;
  kind: Node['kind'];
  label: string;
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
      type="button"
      aria-current={isSelected || undefined}
      title="Alt and the arrow keys move it; Shift and a click choose several"
      onClick={(event) => onSelect(id, event.shiftKey || event.ctrlKey || event.metaKey)}
      onKeyDown={(event) => {
        const step = event.altKey ? arrows[event.key] : undefined;
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
      {choice !== undefined && <VariantMark choice={choice} />}
    </button>
  );
});

export function nodeLabel(node: Node): string {
  if (node.kind === 'slot' || node.kind === 'section' || node.kind === 'links')
    return node.name || kindName(node.kind);
  const words = firstWords([node], ({ fallback }) => fallback || '…');
  return words ? words.slice(0, 60) : kindName(node.kind);
}
