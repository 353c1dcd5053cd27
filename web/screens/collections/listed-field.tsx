import { X } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Listed } from '../../../core/collections/collection.ts';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { IconButton } from '../../parts/button.tsx';

/** Whom lists show an item to. */
export function ListedField({
  listed,
  audiences,
  onChange,
}: {
  listed: Listed | null | undefined;
  audiences: readonly ListedAudience[];
  onChange: (listed: Listed | null) => void;
}) {
  const who = audiences.find(({ id }) => id === listed?.audience)?.name ?? 'a deleted audience';
  return (
    <fieldset className="mb-1">
      <legend className="font-medium">Shown in lists to</legend>
      {listed ? (
        <span className="flex items-center gap-1">
          {listed.to === 'only' ? 'Only' : 'All but'} <strong>{who}</strong>
          <IconButton label="Show it to everybody" onClick={() => onChange(null)}>
            <X size={14} />
          </IconButton>
        </span>
      ) : (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          <span className="mr-2">Everybody</span>
          <AudienceButton
            label="Show only to…"
            audiences={audiences}
            onChoose={(audience) => onChange({ to: 'only', audience })}
          />
          <AudienceButton
            label="Hide from…"
            audiences={audiences}
            onChoose={(audience) => onChange({ to: 'all-but', audience })}
          />
        </div>
      )}
      <p className="mt-1 text-quiet">
        {listed
          ? 'Lists leave it out for the others, who can still open it by its address. To close it, set who can open it.'
          : 'Every list shows it to those who may open it.'}
      </p>
    </fieldset>
  );
}
