import { DndContext, PointerSensor, pointerWithin, useSensor, useSensors } from '@dnd-kit/core';
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { Plus } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import {
  type Block,
  type Content,
  type DocumentKind,
  firstWords,
  type Node,
} from '../../../core/documents/document.ts';
import type { NodeStep } from '../../../core/documents/edit.ts';
import { dragWords } from '../../parts/drag-words.ts';
import { AddBlock } from './add-block.tsx';
import { kindName } from './blocks/blocks.ts';
import { OutlineRow } from './outline-row.tsx';

const rowHeight = 28;
const noteHeight = 20;
/** How many rows are drawn above and below those in view, in rows. */
const overscan = 40;

interface Line {
  readonly node: Node;
  readonly depth: number;
  /** Of a slot, which of its choices is on screen. */
  readonly choice: number | undefined;
  /** Whether it is a slot that shows nothing. */
  readonly isEmpty: boolean;
}

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
  const [dragged, setDragged] = useState<string>();
  const [focused, setFocused] = useState<string>();
  // The same functions each time, so that only those rows are drawn again that are other than before.
  const latest = useRef({ onSelect, onMove });
  latest.current = { onSelect, onMove };
  const select = useCallback((id: string, more: boolean) => latest.current.onSelect(id, more), []);
  const step = useCallback((id: string, to: NodeStep) => latest.current.onMove(id, { step: to }), []);
  const lines = linesOf([...content.subject, ...content.preview, ...content.body], choiceOf);
  const scroller = useRef<HTMLElement>(null);
  const indexOf = (id: string | undefined) => lines.findIndex(({ node }) => node.id === id);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => rowHeight + (lines[index]?.isEmpty ? noteHeight : 0),
    getItemKey: (index) => lines[index]?.node.id ?? index,
    overscan,
    // What has the focus, is chosen or dragged stays wherever the list is scrolled to.
    rangeExtractor: (range) => {
      const kept = [dragged, focused, ...selected].map(indexOf).filter((index) => index >= 0);
      return [...new Set([...defaultRangeExtractor(range), ...kept])].sort((one, two) => one - two);
    },
  });
  const [chosen] = selected;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each that is chosen
  useEffect(() => {
    const index = indexOf(chosen);
    if (index >= 0) virtual.scrollToIndex(index, { align: 'auto' });
  }, [chosen]);
  return (
    <nav aria-label="Blocks" ref={scroller} className="h-full max-h-[40vh] overflow-y-auto wide:max-h-none">
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        accessibility={dragWords((id) => nameOf(lines.find(({ node }) => node.id === id)?.node))}
        onDragStart={({ active }) => setDragged(String(active.id))}
        onDragCancel={() => setDragged(undefined)}
        onDragEnd={({ active, over }) => {
          setDragged(undefined);
          if (over && active.id !== over.id) onMove(String(active.id), { before: String(over.id) });
        }}
      >
        <ul
          className="relative"
          style={{ height: virtual.getTotalSize() }}
          onFocus={({ target }) => setFocused(target.dataset.row)}
          onBlur={() => setFocused(undefined)}
        >
          {virtual.getVirtualItems().map(({ index, key, start }) => {
            const line = lines[index];
            if (!line) return null;
            const { node, depth, choice, isEmpty } = line;
            return (
              <li
                key={key}
                aria-setsize={lines.length}
                aria-posinset={index + 1}
                className="absolute inset-x-0"
                style={{ top: start }}
              >
                <OutlineRow
                  id={node.id}
                  depth={depth}
                  isSelected={selected.includes(node.id)}
                  kind={node.kind}
                  label={nodeLabel(node)}
                  screens={node.kind === 'slot' ? undefined : node.screens}
                  choice={choice}
                  onSelect={select}
                  onStep={step}
                />
                {isEmpty && (
                  <p
                    style={{ paddingLeft: `${30 + depth * 14}px` }}
                    className="text-[12px] leading-5 text-quiet"
                  >
                    nothing for this viewer
                  </p>
                )}
              </li>
            );
          })}
        </ul>
      </DndContext>
      <AddBlock
        label="Add a block"
        kind={kind}
        isItemPage={isItemPage}
        open={adding}
        onOpenChange={setAdding}
        onAdd={onAdd}
        trigger={
          <button
            type="button"
            className="mt-1 flex h-8 items-center gap-2 rounded-md px-2 text-quiet hover:bg-paper hover:text-ink"
          >
            <Plus size={15} aria-hidden /> Add a block
          </button>
        }
      />
    </nav>
  );
}

function nameOf(node: Node | undefined): string {
  return node ? nodeLabel(node) : 'a block';
}

/** Every block of a document that is on screen, from the top down. */
function linesOf(nodes: readonly Node[], choiceOf: (slot: string) => number, depth = 0): Line[] {
  return nodes.flatMap((node): Line[] => {
    const choice = node.kind === 'slot' ? choiceOf(node.id) : undefined;
    const inside =
      node.kind === 'section' || node.kind === 'links'
        ? node.children
        : node.kind === 'slot'
          ? (node.variants[choice ?? -1]?.content ?? node.otherwise)
          : [];
    const isEmpty = node.kind === 'slot' && inside.length === 0;
    return [{ node, depth, choice, isEmpty }, ...linesOf(inside, choiceOf, depth + 1)];
  });
}

export function nodeLabel(node: Node): string {
  if (node.kind === 'slot' || node.kind === 'section' || node.kind === 'links')
    return node.name || kindName(node.kind);
  const words = firstWords([node], ({ fallback }) => fallback || '…');
  return words ? words.slice(0, 60) : kindName(node.kind);
}
