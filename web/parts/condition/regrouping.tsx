import {
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { GripVertical } from 'lucide-react';
import {
  createContext,
  type KeyboardEvent,
  type ReactNode,
  useContext,
  useEffect,
  useRef,
  useState,
} from 'react';
import type { Condition } from '../../../core/conditions/condition.ts';
import { movePart, partAt, pathOf, type Step, stepPart } from '../../../core/conditions/regroup.ts';
import { plainDragWords } from '../drag-words.ts';
import { Popover } from '../popover.tsx';

const steps: readonly (readonly [Step, string, string])[] = [
  ['up', 'Up', 'Alt ↑'],
  ['down', 'Down', 'Alt ↓'],
  ['in', 'Into a group with the one above', 'Alt →'],
  ['out', 'Out of its group', 'Alt ←'],
];
const keys: { [key: string]: Step } = {
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowRight: 'in',
  ArrowLeft: 'out',
};

interface Moves {
  readonly root: Condition;
  step(path: string, step: Step): void;
}
const MovesContext = createContext<Moves | undefined>(undefined);

/** Lets parts of a condition be moved between its groups, by dragging and by keyboard. */
export function Regrouping<Root extends Condition>({
  root,
  onChange,
  children,
}: {
  root: Root;
  onChange: (root: Root) => void;
  children: ReactNode;
}) {
  // A click on a handle opens its menu; only a real pull drags.
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { keyboardCodes: { start: [], cancel: ['Escape'], end: [] } }),
  );
  /** The part that was moved last, whose handle gets the focus where it is now. */
  const moved = useRef<Condition>(undefined);
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!moved.current) return;
    const path = pathOf(root, moved.current);
    moved.current = undefined;
    frame.current?.querySelector<HTMLElement>(`[data-part="${path}"]`)?.focus();
  }, [root]);
  const take = (path: string, next: Condition | undefined) => {
    if (!next) return;
    moved.current = partAt(root, path);
    onChange(next as Root);
  };
  const drop = ({ active, over }: DragEndEvent) => {
    const [group = '', at = ''] = String(over?.id ?? '').split('|');
    if (over && at !== '')
      take(String(active.id), movePart(root, String(active.id), { group, at: Number(at) }));
  };
  return (
    <MovesContext value={{ root, step: (path, step) => take(path, stepPart(root, path, step)) }}>
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        accessibility={plainDragWords('The condition')}
        onDragEnd={drop}
      >
        <div ref={frame}>{children}</div>
      </DndContext>
    </MovesContext>
  );
}

/** Moves the part that the focus is in by Alt and an arrow. */
export function useMoveKeys(path: string): (event: KeyboardEvent) => void {
  const moves = useContext(MovesContext);
  return (event) => {
    const step = event.altKey ? keys[event.key] : undefined;
    if (!moves || !step) return;
    event.preventDefault();
    event.stopPropagation();
    moves.step(path, step);
  };
}

/** What a part is dragged by; pressed, it says where the part can go. */
export function Handle({ path }: { path: string }) {
  const moves = useContext(MovesContext);
  const [open, setOpen] = useState(false);
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: path });
  if (!moves) return null;
  return (
    <Popover
      label="Move this part"
      className="w-[300px] p-2"
      open={open}
      onOpenChange={setOpen}
      handsOver
      trigger={
        <button
          ref={setNodeRef}
          type="button"
          data-part={path}
          aria-label="Move this part"
          title="Drag, or press for the keys"
          {...(listeners?.onPointerDown && { onPointerDown: listeners.onPointerDown as () => void })}
          className={`mt-1.5 -ml-1 cursor-grab touch-none rounded text-quiet hover:text-ink focus-visible:opacity-100 group-hover/part:opacity-100 ${isDragging ? 'opacity-100' : 'opacity-0'}`}
        >
          <GripVertical size={15} aria-hidden />
        </button>
      }
    >
      {steps.map(([step, label, shortcut]) => (
        <button
          key={step}
          type="button"
          disabled={stepPart(moves.root, path, step) === undefined}
          className="flex w-full items-baseline rounded-md px-2 py-1.5 text-left enabled:hover:bg-linen disabled:opacity-40"
          onClick={() => {
            setOpen(false);
            moves.step(path, step);
          }}
        >
          <span className="flex-1">{label}</span>
          <kbd className="font-sans text-[12px] text-quiet">{shortcut}</kbd>
        </button>
      ))}
    </Popover>
  );
}

/** A place between parts that one can be dropped at. */
export function Gap({ group, at }: { group: string; at: number }) {
  const { setNodeRef, isOver, active } = useDroppable({ id: `${group}|${at}` });
  return (
    <span
      ref={setNodeRef}
      aria-hidden
      className={`pointer-events-none absolute -top-2 left-0 z-10 block h-4 w-full ${active ? '' : 'invisible'}`}
    >
      <span className={`mt-1.5 block h-1 rounded-full ${isOver ? 'bg-leaf' : ''}`} />
    </span>
  );
}
