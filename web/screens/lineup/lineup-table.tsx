import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual';
import { memo, type ReactNode, useLayoutEffect, useRef } from 'react';
import type { Facts, Viewer } from '../../../core/attributes/viewer.ts';
import { metValue } from '../../../core/conditions/explain.ts';
import { type Choices, type Decider, everyoneElse } from '../../../core/deciding/decide.ts';
import { type Document, firstWords, type Slot } from '../../../core/documents/document.ts';
import type { Step } from '../../data/looking.tsx';
import { DocumentView } from '../../parts/rendering/document-view.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';

const drawnAt = 960;
const between = 8;
const slotWidth = 152;

/** Somebody a column is for, and what they get. */
export interface Column {
  readonly viewer: Viewer;
  readonly facts: Facts;
  readonly choices: Choices;
}

/** What each of some viewers gets in every slot. However many they are, only those in view are drawn. */
export function LineupTable({
  document,
  decider,
  slots,
  steps,
  columnOf,
  first = 0,
  columnWidth,
  isWhole = false,
  isShown,
  chosen,
  onShow,
  onChoose,
  children,
}: {
  document: Document;
  decider: Decider;
  slots: readonly Slot[];
  steps: readonly Step[];
  columnOf: (step: Step) => Column | undefined;
  /** How many stand before them, in another table. */
  first?: number;
  /** In pixels. */
  columnWidth: number;
  /** Whether columns out of view are drawn as well, as on paper. */
  isWhole?: boolean;
  isShown: (step: Step) => boolean;
  chosen?: { step: string; slot: string } | undefined;
  onShow: (step: Step) => void;
  onChoose: (step: Step, slot: Slot) => void;
  /** What stands below the table. */
  children?: ReactNode;
}) {
  const region = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    horizontal: true,
    count: steps.length,
    getScrollElement: () => region.current,
    estimateSize: () => columnWidth + between,
    getItemKey: (index) => steps[index]?.key ?? index,
    overscan: 5,
    rangeExtractor: (range) =>
      isWhole ? Array.from({ length: steps.length }, (_, index) => index) : defaultRangeExtractor(range),
    // Before it is measured, nothing would be in view.
    ...(isWhole && { initialRect: { width: steps.length * (columnWidth + between), height: 0 } }),
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever the columns have another width
  useLayoutEffect(() => virtual.measure(), [columnWidth, virtual]);
  const items = virtual.getVirtualItems();
  const inView = items.flatMap(({ index }) => {
    const step = steps[index];
    const column = step && columnOf(step);
    return step && column ? [{ index, step, column }] : [];
  });
  // What is not drawn keeps its room.
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const gap = (width: number) =>
    width > 0 ? <td aria-hidden style={{ minWidth: width, padding: 0 }} /> : null;
  return (
    <section
      ref={region}
      aria-label="Viewers side by side"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      data-whole={isWhole}
      className="mt-3 min-h-0 flex-1 overflow-auto pb-4"
    >
      <table
        aria-colcount={steps.length + 1}
        className="border-separate border-spacing-x-0 border-spacing-y-1.5"
      >
        <thead>
          <tr>
            <td className="sticky left-0 z-10 bg-linen" style={{ width: slotWidth, minWidth: slotWidth }} />
            {gap(before)}
            {inView.map(({ index, step, column }) => (
              <th
                key={step.key}
                scope="col"
                aria-colindex={index + 2}
                style={{ padding: `0 ${between / 2}px` }}
                className="text-left align-top font-normal"
              >
                <button
                  type="button"
                  onClick={() => onShow(step)}
                  aria-pressed={isShown(step)}
                  style={{ width: columnWidth }}
                  className={`block overflow-hidden rounded-md border bg-paper text-left ${isShown(step) ? 'border-2 border-ink' : 'border-line hover:border-edge'}`}
                >
                  <span className="block px-2.5 py-1.5">
                    <span className="flex gap-1.5">
                      <span className="text-quiet">{first + index + 1}</span>
                      <span className="line-clamp-2 h-10 min-w-0 flex-1 font-semibold" title={step.label}>
                        {step.label}
                      </span>
                    </span>
                    <span className="block truncate text-[12px] leading-4 text-quiet">{step.note}</span>
                  </span>
                  <Thumbnail document={document} decider={decider} column={column} width={columnWidth} />
                </button>
              </th>
            ))}
            {gap(after)}
          </tr>
        </thead>
        <tbody>
          {slots.map((slot, row) => (
            <tr key={slot.id}>
              <th scope="row" className="sticky left-0 z-10 bg-linen pl-5 pr-1 text-left align-middle">
                <span className="block font-semibold">{slot.name}</span>
                <span className="block text-[12px] font-normal leading-4 text-quiet">
                  {slot.variants.length} {slot.variants.length === 1 ? 'variant' : 'variants'}
                </span>
              </th>
              {gap(before)}
              {inView.map(({ index, step, column }) => (
                <td key={step.key} aria-colindex={index + 2} style={{ padding: `0 ${between / 2}px` }}>
                  <Cell
                    slot={slot}
                    choice={column.choices[row] ?? everyoneElse}
                    facts={column.facts}
                    decider={decider}
                    width={columnWidth}
                    chosen={chosen?.step === step.key && chosen.slot === slot.id}
                    onChoose={() => onChoose(step, slot)}
                  />
                </td>
              ))}
              {gap(after)}
            </tr>
          ))}
        </tbody>
      </table>
      {children}
    </section>
  );
}

/** Drawn once, however far the table is scrolled. */
const Thumbnail = memo(function Thumbnail({
  document,
  decider,
  column,
  width,
}: {
  document: Document;
  decider: Decider;
  column: Column;
  width: number;
}) {
  const scale = width / drawnAt;
  const height = Math.round(0.86 * width);
  return (
    <span aria-hidden className="pointer-events-none block overflow-hidden" style={{ height }} inert>
      <DocumentView
        document={document}
        decider={decider}
        viewer={column.viewer}
        facts={column.facts}
        choices={column.choices}
        style={{
          width: drawnAt,
          minHeight: height / scale,
          background: document.kind === 'email' ? '#f6f2e9' : 'transparent',
          transform: `scale(${scale})`,
          transformOrigin: '0 0',
        }}
      />
    </span>
  );
});

function Cell({
  slot,
  choice,
  facts,
  decider,
  width,
  chosen,
  onChoose,
}: {
  slot: Slot;
  choice: number;
  facts: Facts;
  decider: Decider;
  width: number;
  chosen: boolean;
  onChoose: () => void;
}) {
  const nodes = slot.variants[choice]?.content ?? slot.otherwise;
  const words = firstWords(
    nodes,
    ({ attribute, fallback }) => metValue(attribute, facts, decider.catalogue) ?? fallback,
  );
  return (
    <button
      type="button"
      onClick={onChoose}
      aria-pressed={chosen}
      style={{ width }}
      className={`flex h-[46px] items-center gap-2 rounded-md border px-2.5 text-left ${nodes.length === 0 ? 'hatched' : 'bg-paper'} ${chosen ? 'border-ink ring-1 ring-ink' : 'border-line hover:border-edge'}`}
    >
      <VariantMark choice={choice} />
      <span className={`line-clamp-2 min-w-0 leading-[18px] ${nodes.length === 0 ? 'text-quiet' : ''}`}>
        {nodes.length === 0 ? 'nothing' : words || 'without words'}
      </span>
    </button>
  );
}
