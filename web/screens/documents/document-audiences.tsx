import { ChevronDown, ChevronUp, X } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Content } from '../../../core/documents/document.ts';
import {
  deviationOf,
  outerSlotsOf,
  setAudiences,
  spreadAudiences,
} from '../../../core/documents/page-audiences.ts';
import { useSayPeople } from '../../data/counts.ts';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { Button, IconButton } from '../../parts/button.tsx';
import { newId } from '../../parts/new-id.ts';
import type { Edit } from './use-document.ts';

/** The audiences that all slots of a document are for, and their order, set once. */
export function DocumentAudiences({
  content,
  audiences,
  edit,
}: {
  content: Content;
  audiences: readonly ListedAudience[];
  edit: Edit;
}) {
  const set = content.audiences ?? [];
  const slots = outerSlotsOf(content);
  const alike = slots.filter((slot) => !deviationOf(slot, set)).length;
  const change = (next: readonly string[]) => edit((before) => setAudiences(before, next, newId));
  const sayPeople = useSayPeople();
  const move = (index: number, by: -1 | 1) => {
    const next = [...set];
    const [moved] = next.splice(index, 1);
    if (moved !== undefined) next.splice(index + by, 0, moved);
    change(next);
  };
  return (
    <section aria-label="Audiences of all slots" className="flex flex-col gap-2">
      <h2 className="text-[16px]">Audiences of all slots</h2>
      {set.length === 0 ? (
        <p className="text-quiet">
          Set who this is for once, and in which order: slots that are alike follow it from then on.
        </p>
      ) : (
        <ol className="flex flex-col gap-1">
          {set.map((id, index) => {
            const known = audiences.find((audience) => audience.id === id);
            const name = known?.name ?? 'a deleted audience';
            return (
              <li
                key={id}
                className="flex items-center gap-2 rounded-md border border-line bg-paper py-0.5 pr-0.5 pl-2.5"
              >
                <span className={`min-w-0 flex-1 truncate font-semibold ${known ? '' : 'text-apple'}`}>
                  {name}
                </span>
                {known && <span className="text-quiet">{sayPeople(known)}</span>}
                <span className="flex">
                  <IconButton
                    label={`Move ${name} up`}
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    <ChevronUp size={14} />
                  </IconButton>
                  <IconButton
                    label={`Move ${name} down`}
                    disabled={index === set.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    <ChevronDown size={14} />
                  </IconButton>
                  <IconButton
                    label={`Remove ${name} from all slots`}
                    onClick={() => change(set.filter((other) => other !== id))}
                  >
                    <X size={14} />
                  </IconButton>
                </span>
              </li>
            );
          })}
        </ol>
      )}
      {set.length > 0 && slots.length > 0 && (
        <p className="text-quiet" role="status">
          {alike === slots.length
            ? `${slots.length === 1 ? 'The slot follows' : `All ${slots.length} slots follow`} these; removing one removes its variants.`
            : `${alike} of ${slots.length} slots ${alike === 1 ? 'follows' : 'follow'} these.`}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <AudienceButton
          label="Add an audience…"
          audiences={audiences.filter(({ id }) => !set.includes(id))}
          onChoose={(id) => change([...set, id])}
        />
        {set.length > 0 && alike < slots.length && (
          <Button onClick={() => edit((before) => spreadAudiences(before, newId))}>Use in every slot</Button>
        )}
      </div>
    </section>
  );
}
