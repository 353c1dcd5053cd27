import { useSortable } from '@dnd-kit/sortable';
import { GripVertical, Trash2 } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { variantLetter } from '../../../core/documents/document.ts';
import { IconButton } from '../../parts/button.tsx';
import { Select } from '../../parts/select.tsx';
import { VariantEdge, VariantMark } from '../../parts/variant-mark.tsx';
import { quoted, type SlotActions } from './slot-actions.ts';

export function VariantCard({
  id,
  choice,
  shown,
  audience,
  audiences,
  words,
  people,
  actions,
}: {
  id: string;
  choice: number;
  shown: boolean;
  audience: string;
  audiences: readonly ListedAudience[];
  words: string;
  /** How many get it, in words; empty until it is known. */
  people: string;
  actions: SlotActions;
}) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useSortable({ id });
  const known = audiences.find((other) => other.id === audience);
  const name = known?.name ?? 'a deleted audience';
  return (
    <li
      ref={setNodeRef}
      style={transform ? { transform: `translateY(${transform.y}px)` } : undefined}
      className={`group flex gap-2.5 rounded-md border bg-paper p-2.5 ${shown ? 'border-ink ring-1 ring-ink' : 'border-line'} ${isDragging ? 'z-10 shadow-soft' : ''}`}
    >
      <VariantEdge choice={choice} />
      <div className="min-w-0 flex-1">
        <div className="flex items-center">
          <button
            type="button"
            className="flex min-w-0 flex-1 items-center gap-2 text-left"
            onClick={() => actions.show(choice)}
          >
            <VariantMark choice={choice} />
            <span className={`min-w-0 flex-1 truncate font-semibold ${known ? '' : 'text-apple'}`}>
              {name}
            </span>
            {people !== '' && <span className="font-semibold">{people}</span>}
          </button>
          <IconButton
            className="-my-1 -mr-1.5"
            label={`Move variant ${variantLetter(choice)}: Space, then arrow keys`}
            {...attributes}
            {...listeners}
            role="button"
          >
            <GripVertical size={15} />
          </IconButton>
        </div>
        <div className="mt-1 flex items-baseline gap-2 text-quiet">
          <span className="min-w-0 flex-1 truncate">{words ? quoted(words) : 'nothing'}</span>
          {shown && <span className="text-leaf">on screen</span>}
        </div>
        {shown && (
          <div className="mt-1 flex items-center gap-1">
            <Select
              aria-label={`Audience of variant ${variantLetter(choice)}`}
              value={audience}
              onChange={(chosen) => actions.setAudience(id, chosen)}
              className="h-7 min-w-0 flex-1 text-[13px] text-quiet"
              placeholder="a deleted audience"
              options={audiences.map((option) => ({ value: option.id, label: option.name }))}
            />
            <IconButton
              label={`Remove variant ${variantLetter(choice)}`}
              onClick={() => actions.removeVariant(id)}
            >
              <Trash2 size={14} />
            </IconButton>
          </div>
        )}
      </div>
    </li>
  );
}
