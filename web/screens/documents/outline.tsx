import {
  AlignLeft,
  Heading,
  Image,
  LayoutPanelTop,
  MousePointerClick,
  Plus,
  Rows3,
  TextCursorInput,
} from 'lucide-react';
import { useState } from 'react';
import {
  type Block,
  type Content,
  firstWords,
  type Node,
  type NodeKind,
} from '../../../core/documents/document.ts';
import { PickList } from '../../parts/pick-list.tsx';
import { Popover } from '../../parts/popover.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';

export const kindWords: Record<NodeKind, string> = {
  heading: 'Heading',
  text: 'Text',
  picture: 'Picture',
  button: 'Button',
  section: 'Section',
  line: 'Line',
  slot: 'Slot',
};
const icons: Record<NodeKind, typeof Heading> = {
  heading: Heading,
  text: AlignLeft,
  picture: Image,
  button: MousePointerClick,
  section: Rows3,
  line: TextCursorInput,
  slot: LayoutPanelTop,
};
const addable: Block['kind'][] = ['heading', 'text', 'picture', 'button', 'section'];

/** The blocks that the viewer gets, as a list; a slot shows the letter of the variant on screen. */
export function Outline({
  content,
  choiceOf,
  selected,
  onSelect,
  onAdd,
}: {
  content: Content;
  choiceOf: (slot: string) => number;
  selected: string | null;
  onSelect: (id: string) => void;
  onAdd: (kind: Block['kind']) => void;
}) {
  const [adding, setAdding] = useState(false);
  const row = (node: Node, depth: number): React.ReactNode => {
    const Icon = icons[node.kind];
    const choice = node.kind === 'slot' ? choiceOf(node.id) : undefined;
    const inside =
      node.kind === 'section'
        ? node.children
        : node.kind === 'slot'
          ? (node.variants[choice ?? -1]?.content ?? node.otherwise)
          : [];
    return (
      <li key={node.id}>
        <button
          type="button"
          aria-current={selected === node.id || undefined}
          onClick={() => onSelect(node.id)}
          style={{ paddingLeft: `${8 + depth * 14}px` }}
          className={`flex h-7 w-full items-center gap-2 rounded-md border pr-1.5 text-left ${selected === node.id ? 'border-line bg-paper' : 'border-transparent hover:bg-paper/60'}`}
        >
          <Icon size={14} className="shrink-0 text-quiet" aria-hidden />
          <span className="min-w-0 flex-1 truncate">{nodeLabel(node)}</span>
          {choice !== undefined && <VariantMark choice={choice} />}
        </button>
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
      <ul>{[...content.subject, ...content.preview, ...content.body].map((node) => row(node, 0))}</ul>
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
          groups={[
            { heading: 'Blocks', options: addable.map((kind) => ({ id: kind, label: kindWords[kind] })) },
          ]}
          onChoose={(id) => {
            const kind = addable.find((known) => known === id);
            setAdding(false);
            if (kind) onAdd(kind);
          }}
        />
      </Popover>
    </nav>
  );
}

export function nodeLabel(node: Node): string {
  if (node.kind === 'slot' || node.kind === 'section') return node.name || kindWords[node.kind];
  const words = firstWords([node], ({ fallback }) => fallback || '…');
  return words ? words.slice(0, 60) : kindWords[node.kind];
}
