import { ArrowDown, ArrowUp, Split, Trash2, X } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { briefEntry, type FullEntry, fullEntry } from '../../../core/deciding/menu.ts';
import type { MenuEntry } from '../../../core/deciding/release.ts';
import { variantLetter } from '../../../core/documents/document.ts';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { IconButton } from '../../parts/button.tsx';
import { PickButton } from '../../parts/pick-button.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';

const box = 'h-8 w-full min-w-0 rounded-md border border-line bg-paper px-2';

/** The pages in the site's menu, in order; what an entry says can differ by audience. */
export function MenuEditor({
  menu,
  pages,
  audiences,
  onChange,
}: {
  menu: readonly MenuEntry[];
  pages: readonly { slug: string; name: string }[];
  audiences: readonly ListedAudience[];
  onChange: (menu: MenuEntry[]) => void;
}) {
  const [open, setOpen] = useState<string>();
  const entries = menu.map(fullEntry);
  const nameOf = (slug: string) => pages.find((page) => page.slug === slug)?.name ?? 'a deleted page';
  const left = pages.filter(({ slug }) => slug !== '' && !entries.some(({ page }) => page === slug));
  const move = (at: number, by: -1 | 1) => {
    const next = [...menu];
    const [moved] = next.splice(at, 1);
    if (moved !== undefined) next.splice(at + by, 0, moved);
    onChange(next);
  };
  return (
    <fieldset>
      <legend className="font-medium">Menu</legend>
      <ul className="mt-1 rounded-md border border-line bg-paper">
        {entries.map((entry, at) => {
          const name = nameOf(entry.page);
          const isOpen = open === entry.page;
          return (
            <li key={entry.page} className="border-b border-line/60 px-2 py-0.5 last:border-0">
              <div className="flex items-center">
                <span className="min-w-0 flex-1 truncate">{name}</span>
                {entry.variants.length > 0 && (
                  <span className="mr-1 flex gap-0.5">
                    {entry.variants.map(({ audience }, index) => (
                      <VariantMark key={audience} choice={index} />
                    ))}
                  </span>
                )}
                <IconButton
                  label={`What ${name} says in the menu`}
                  aria-expanded={isOpen}
                  onClick={() => setOpen(isOpen ? undefined : entry.page)}
                >
                  <Split size={14} />
                </IconButton>
                <IconButton label={`Move ${name} up`} disabled={at === 0} onClick={() => move(at, -1)}>
                  <ArrowUp size={14} />
                </IconButton>
                <IconButton
                  label={`Move ${name} down`}
                  disabled={at === menu.length - 1}
                  onClick={() => move(at, 1)}
                >
                  <ArrowDown size={14} />
                </IconButton>
                <IconButton
                  label={`Remove ${name} from the menu`}
                  onClick={() => onChange(menu.filter((_, index) => index !== at))}
                >
                  <Trash2 size={14} />
                </IconButton>
              </div>
              {isOpen && (
                <EntryWords
                  entry={entry}
                  name={name}
                  audiences={audiences}
                  onChange={(next) =>
                    onChange(menu.map((old, index) => (index === at ? briefEntry(next) : old)))
                  }
                />
              )}
            </li>
          );
        })}
        {menu.length === 0 && <li className="px-2 py-1 text-quiet">no entry</li>}
      </ul>
      {left.length > 0 && (
        <PickButton
          label="Add a page…"
          options={left.map(({ slug, name }) => ({ id: slug, label: name }))}
          onChoose={(slug) => onChange([...menu, slug])}
        />
      )}
      <p className="mt-1 text-quiet">
        An entry for a page that not everybody may open is there for those who may.
      </p>
    </fieldset>
  );
}

/** What one entry says to each audience; first match wins. */
function EntryWords({
  entry,
  name,
  audiences,
  onChange,
}: {
  entry: FullEntry;
  name: string;
  audiences: readonly ListedAudience[];
  onChange: (entry: FullEntry) => void;
}) {
  const { variants, otherwise } = entry;
  const setVariants = (next: FullEntry['variants']) => onChange({ ...entry, variants: next });
  return (
    <div className="mb-2 flex flex-col gap-1.5 pl-2">
      {variants.map(({ audience, label }, index) => {
        const who = audiences.find(({ id }) => id === audience)?.name ?? 'a deleted audience';
        return (
          <div key={audience} className="flex flex-col gap-0.5">
            <span className="flex items-center gap-1.5">
              <VariantMark choice={index} />
              <span className="min-w-0 flex-1 truncate font-semibold">{who}</span>
              <IconButton
                label={`Remove words for ${who}`}
                onClick={() => setVariants(variants.filter((_, at) => at !== index))}
              >
                <X size={14} />
              </IconButton>
            </span>
            <input
              aria-label={`Words of ${name} for ${variantLetter(index)}`}
              className={box}
              value={label}
              maxLength={80}
              placeholder={name}
              onChange={({ target }) =>
                setVariants(
                  variants.map((one, at) => (at === index ? { audience, label: target.value } : one)),
                )
              }
            />
          </div>
        );
      })}
      <div className="flex flex-col gap-0.5">
        <span className="flex items-center gap-1.5">
          <VariantMark choice={-1} />
          <span className="flex-1 font-semibold">Everyone else</span>
          <label className="flex items-baseline gap-1.5">
            <input
              type="checkbox"
              className="accent-leaf"
              checked={otherwise === null}
              onChange={({ target }) => onChange({ ...entry, otherwise: target.checked ? null : '' })}
            />
            no entry
          </label>
        </span>
        {otherwise !== null && (
          <input
            aria-label={`Words of ${name} for everyone else`}
            className={box}
            value={otherwise}
            maxLength={80}
            placeholder={name}
            onChange={({ target }) => onChange({ ...entry, otherwise: target.value })}
          />
        )}
      </div>
      <AudienceButton
        label="Different words for…"
        audiences={audiences.filter(({ id }) => !variants.some(({ audience }) => audience === id))}
        onChoose={(audience) => setVariants([...variants, { audience, label: otherwise ?? '' }])}
      />
    </div>
  );
}
