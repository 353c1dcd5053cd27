import { DndContext, PointerSensor, useDraggable, useSensor, useSensors } from '@dnd-kit/core';
import { GripVertical, Plus, Split } from 'lucide-react';
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { type Block, type Content, type DocumentKind, findNode } from '../../../core/documents/document.ts';
import { heldBy, type NodeStep } from '../../../core/documents/edit.ts';
import { IconButton } from '../../parts/button.tsx';
import { plainDragWords } from '../../parts/drag-words.ts';
import { AddBlock } from './add-block.tsx';
import { kindName } from './blocks/blocks.ts';
import { type Beside, gapAt, type Landing, landingAt, placeOf } from './canvas-places.ts';
import { DifferButton, type Differing } from './differ-button.tsx';
import { stepOf } from './node-steps.ts';
import { useMeasured } from './use-measured.ts';
import { useTakenPictures } from './use-taken-pictures.ts';

const barHeight = 30;
const barWidth = 96;

export interface CanvasActions {
  /** Adds a block after the selected one, or replaces it if it is a text without words. */
  insert: (kind: Block['kind']) => void;
  addAt: (kind: Block['kind'], to: Beside) => void;
  addPicture: (file: string, name: string, to?: Beside) => void;
  move: (id: string, to: Beside | { step: NodeStep }) => void;
  differ: (how: Differing) => unknown;
}

/** What can be done on the canvas itself: a bar at the chosen block, and a plus at the gap under the pointer. */
export function CanvasTools({
  frame,
  content,
  drawn,
  block,
  isInSlot,
  kind,
  isItemPage,
  audiences,
  inserting,
  onInserting,
  onInserted,
  actions,
}: {
  frame: RefObject<HTMLElement | null>;
  content: Content;
  /** What is on screen, so that places are measured again when that changes. */
  drawn: unknown;
  /** The chosen block, where there is one. */
  block: Block | undefined;
  isInSlot: boolean;
  kind: DocumentKind;
  isItemPage: boolean;
  audiences: readonly ListedAudience[];
  /** Whether the list of blocks is open that can be put below the chosen one. */
  inserting: boolean;
  onInserting: (open: boolean) => void;
  /** Called when that list closes; returns the focus to the text. */
  onInserted: () => void;
  actions: CanvasActions;
}) {
  const isBlock = useCallback(
    (id: string) => findNode(content, id) !== undefined && heldBy(content, id) === 'blocks',
    [content],
  );
  const chosen = block && isBlock(block.id) ? block : undefined;
  const place = useMeasured(frame, (element) => (chosen ? (placeOf(element, chosen.id) ?? null) : null), [
    chosen?.id,
    content,
    drawn,
  ]);
  const [landing, setLanding] = useState<Landing>();
  const gap = useGap(frame, isBlock, landing !== undefined);
  const pointer = useRef<{ x: number; y: number }>(undefined);
  useEffect(() => {
    const follow = ({ clientX: x, clientY: y }: PointerEvent) => {
      pointer.current = { x, y };
    };
    window.addEventListener('pointermove', follow, true);
    return () => window.removeEventListener('pointermove', follow, true);
  }, []);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const land = () =>
    frame.current && chosen && pointer.current
      ? landingAt(
          frame.current,
          pointer.current,
          (id) =>
            id !== chosen.id && isBlock(id) && findNode({ ...content, body: [chosen] }, id) === undefined,
        )
      : undefined;
  useTakenPictures(frame, {
    landing: (point) => (frame.current ? landingAt(frame.current, point, isBlock) : undefined),
    onOver: setLanding,
    onPicture: actions.addPicture,
  });
  const end = (isDropped: boolean) => {
    const at = isDropped ? land() : undefined;
    setLanding(undefined);
    if (at && chosen) actions.move(chosen.id, at.to);
  };
  return (
    <>
      {gap.at && (
        <div
          data-gap=""
          className="absolute z-10 flex h-6 items-center justify-center"
          style={{ left: gap.at.line.left, top: gap.at.line.top - 10, width: gap.at.line.width }}
        >
          <span className="pointer-events-none absolute inset-x-0 top-1/2 h-0.5 -translate-y-1/2 bg-leaf" />
          <AddBlock
            label="Insert a block here"
            kind={kind}
            isItemPage={isItemPage}
            open={gap.isHeld}
            onOpenChange={gap.hold}
            onAdd={(added) => gap.at && actions.addAt(added, gap.at.to)}
            trigger={
              <button
                type="button"
                aria-label="Insert a block here"
                className="relative flex size-6 items-center justify-center rounded-full bg-leaf text-on-leaf shadow-soft"
              >
                <Plus size={15} aria-hidden />
              </button>
            }
          />
        </div>
      )}
      {landing && (
        <div
          data-landing=""
          className="pointer-events-none absolute z-10 rounded bg-leaf"
          style={landing.line}
        />
      )}
      {place && chosen && (
        <DndContext
          sensors={sensors}
          accessibility={plainDragWords(kindName(chosen.kind))}
          onDragMove={() => setLanding(land())}
          onDragEnd={() => end(true)}
          onDragCancel={() => end(false)}
        >
          <div
            role="toolbar"
            aria-label={`${kindName(chosen.kind)}: move, insert, vary`}
            className="absolute z-10 flex items-center rounded-md border border-line bg-paper px-0.5 text-ink shadow-soft"
            style={{
              left: Math.max(0, place.left + place.width - barWidth),
              // Above the block; below it in a slot, whose tab is above.
              top: isInSlot ? place.top + place.height + 6 : Math.max(0, place.top - barHeight - 6),
              height: barHeight,
            }}
          >
            <Handle id={chosen.id} onStep={(step) => actions.move(chosen.id, { step })} />
            <AddBlock
              label="Insert a block below"
              kind={kind}
              isItemPage={isItemPage}
              open={inserting}
              onOpenChange={onInserting}
              onClosed={onInserted}
              onAdd={actions.insert}
              trigger={
                <IconButton label="Insert a block below (/)">
                  <Plus size={15} />
                </IconButton>
              }
            />
            {audiences.length > 0 && (
              <DifferButton
                audiences={audiences}
                setForAll={content.audiences}
                onDiffer={(how) => void actions.differ(how)}
                trigger={
                  <IconButton label="Vary this block">
                    <Split size={15} />
                  </IconButton>
                }
              />
            )}
          </div>
        </DndContext>
      )}
    </>
  );
}

/** What the chosen block is dragged by; with Alt, the arrow keys move it too. */
function Handle({ id, onStep }: { id: string; onStep: (step: NodeStep) => void }) {
  const { setNodeRef, listeners } = useDraggable({ id });
  const button = useRef<HTMLButtonElement>(null);
  return (
    <IconButton
      ref={(element) => {
        button.current = element;
        setNodeRef(element);
      }}
      {...listeners}
      label="Move: drag, or hold Alt and press an arrow key"
      className="cursor-grab touch-none"
      onKeyDown={(event) => {
        const step = stepOf(event);
        if (!step) return;
        event.preventDefault();
        onStep(step);
        // The moved block is mounted again, and its text editor takes the focus.
        requestAnimationFrame(() => button.current?.focus());
      }}
    >
      <GripVertical size={15} />
    </IconButton>
  );
}

/** The gap under the pointer; the same one for as long as it is held. */
function useGap(frame: RefObject<HTMLElement | null>, isBlock: (id: string) => boolean, isOff: boolean) {
  const [at, setAt] = useState<Landing>();
  const [isHeld, hold] = useState(false);
  useEffect(() => {
    const element = frame.current;
    if (!element || isHeld) return;
    let waiting = 0;
    const look = (event: PointerEvent) => {
      const isAtPlus = event.target instanceof Element && event.target.closest('[data-gap]');
      if (isAtPlus || event.pointerType !== 'mouse' || event.buttons !== 0) return;
      cancelAnimationFrame(waiting);
      waiting = requestAnimationFrame(() =>
        setAt(gapAt(element, { x: event.clientX, y: event.clientY }, isBlock)),
      );
    };
    const leave = () => {
      cancelAnimationFrame(waiting);
      setAt(undefined);
    };
    element.addEventListener('pointermove', look);
    element.addEventListener('pointerleave', leave);
    return () => {
      cancelAnimationFrame(waiting);
      element.removeEventListener('pointermove', look);
      element.removeEventListener('pointerleave', leave);
    };
  }, [frame, isBlock, isHeld]);
  // What was there may be gone by now.
  const isThere = at !== undefined && isBlock('before' in at.to ? at.to.before : at.to.after);
  return { at: isThere && !isOff ? at : undefined, isHeld, hold };
}
