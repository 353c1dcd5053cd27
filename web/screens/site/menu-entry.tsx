import { Plus, X } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { FullEntry } from '../../../core/deciding/menu.ts';
import { variantLetter } from '../../../core/documents/document.ts';
import { AddressField } from '../../parts/address-field.tsx';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { Button, IconButton } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';

const box = 'h-8 w-full min-w-0 rounded-md border border-line bg-paper px-2';

/** What can be set of one entry of the menu: its name and link, what it says to each audience, and for whom it is absent. */
export function MenuEntrySettings({
  entry,
  name,
  canHold,
  audiences,
  onChange,
}: {
  entry: FullEntry;
  name: string;
  /** Whether others can stand below it. */
  canHold: boolean;
  audiences: readonly ListedAudience[];
  onChange: (entry: FullEntry) => void;
}) {
  const { variants, otherwise, address, entries } = entry;
  const setVariants = (next: FullEntry['variants']) => onChange({ ...entry, variants: next });
  const free = audiences.filter(({ id }) => !variants.some(({ audience }) => audience === id));
  return (
    <div className="mb-2 flex flex-col gap-1.5 pl-2">
      {entry.page === undefined && (
        <TextField
          label="Name"
          value={entry.name ?? ''}
          maxLength={80}
          onChange={({ target }) => onChange({ ...entry, name: target.value })}
        />
      )}
      {address !== undefined && (
        <AddressField
          label="Link URL"
          value={address}
          onChange={(next) => onChange({ ...entry, address: next })}
        />
      )}
      {variants.map(({ audience, label }, index) => {
        const who = audiences.find(({ id }) => id === audience)?.name ?? 'a deleted audience';
        return (
          <Said
            key={audience}
            choice={index}
            who={who}
            fieldLabel={`Label of ${name} for ${variantLetter(index)}`}
            label={label}
            placeholder={name}
            onChange={(next) =>
              setVariants(variants.map((one, at) => (at === index ? { audience, label: next } : one)))
            }
            onRemove={() => setVariants(variants.filter((_, at) => at !== index))}
          />
        );
      })}
      <Said
        choice={-1}
        who={variants.length === 0 ? 'Everyone' : 'Everyone else'}
        fieldLabel={`Label of ${name} for everyone else`}
        label={otherwise}
        placeholder={name}
        onChange={(next) => onChange({ ...entry, otherwise: next })}
      />
      <div className="flex flex-wrap gap-1">
        <AudienceButton
          label="Another label for…"
          audiences={free}
          onChoose={(audience) => setVariants([...variants, { audience, label: otherwise ?? '' }])}
        />
        <AudienceButton
          label="Show only to…"
          audiences={free}
          onChoose={(audience) =>
            onChange({
              ...entry,
              variants: [...variants, { audience, label: otherwise ?? '' }],
              otherwise: null,
            })
          }
        />
        <AudienceButton
          label="Hide from…"
          audiences={free}
          // The first audience that matches decides: whom it is hidden from comes before all others.
          onChoose={(audience) => setVariants([{ audience, label: null }, ...variants])}
        />
        {canHold && entries === undefined && (
          <Button icon={<Plus size={15} aria-hidden />} onClick={() => onChange({ ...entry, entries: [] })}>
            Entries below
          </Button>
        )}
      </div>
    </div>
  );
}

/** What one audience reads, or that it gets no entry. */
function Said({
  choice,
  who,
  fieldLabel,
  label,
  placeholder,
  onChange,
  onRemove,
}: {
  choice: number;
  who: string;
  fieldLabel: string;
  label: string | null;
  placeholder: string;
  onChange: (label: string | null) => void;
  onRemove?: () => void;
}) {
  return (
    <div className="flex flex-col gap-0.5">
      <span className="flex items-center gap-1.5">
        <VariantMark choice={choice} />
        <span className="min-w-0 flex-1 truncate font-semibold">{who}</span>
        <label className="flex items-baseline gap-1.5">
          <input
            type="checkbox"
            className="accent-leaf"
            checked={label === null}
            onChange={({ target }) => onChange(target.checked ? null : '')}
          />
          No entry
        </label>
        {onRemove && (
          <IconButton label={`Remove ${who}`} onClick={onRemove}>
            <X size={14} />
          </IconButton>
        )}
      </span>
      {label !== null && (
        <input
          aria-label={fieldLabel}
          className={box}
          value={label}
          maxLength={80}
          placeholder={placeholder}
          onChange={({ target }) => onChange(target.value)}
        />
      )}
    </div>
  );
}
