import { ArrowDown, ArrowUp, Plus, SlidersHorizontal, Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import { briefEntry, type FullEntry, fullEntry } from '../../../core/deciding/menu.ts';
import type { MenuEntry } from '../../../core/deciding/release.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { newId } from '../../parts/new-id.ts';
import { PickButton } from '../../parts/pick-button.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { MenuEntrySettings } from './menu-entry.tsx';

export interface MenuPage {
  readonly slug: string;
  readonly name: string;
}

/** The site's menu: pages, links and entries below others, each for whom it is there. */
export function MenuEditor({
  menu,
  pages,
  audiences,
  onChange,
}: {
  menu: readonly MenuEntry[];
  pages: readonly MenuPage[];
  audiences: readonly ListedAudience[];
  onChange: (menu: MenuEntry[]) => void;
}) {
  return (
    <fieldset>
      <legend className="font-medium">Menu</legend>
      <Entries
        entries={menu.map(fullEntry)}
        isInner={false}
        pages={pages}
        used={pathsOf(menu)}
        audiences={audiences}
        onChange={(entries) => onChange(entries.map(briefEntry))}
      />
      <p className="mt-1 text-quiet">
        A page that not everybody may open stands in the menu of those who may.
      </p>
    </fieldset>
  );
}

/** The paths of the pages that stand anywhere in a menu. */
function pathsOf(menu: readonly MenuEntry[]): ReadonlySet<string | undefined> {
  return new Set(menu.map(fullEntry).flatMap(({ page, entries = [] }) => [page, ...pathsOf(entries)]));
}

/** What an entry is called in the studio. */
function nameOf({ page, name }: FullEntry, pages: readonly MenuPage[]): string {
  if (name) return name;
  if (page === undefined) return 'Unnamed';
  return pages.find(({ slug }) => slug === page)?.name ?? 'a deleted page';
}

const everywhere = { variants: [], otherwise: '' };

/** The entries at one level of the menu, in order. */
function Entries({
  entries,
  isInner,
  pages,
  used,
  audiences,
  onChange,
}: {
  entries: readonly FullEntry[];
  /** Whether they stand below another entry; then nothing stands below them. */
  isInner: boolean;
  pages: readonly MenuPage[];
  used: ReadonlySet<string | undefined>;
  audiences: readonly ListedAudience[];
  onChange: (entries: FullEntry[]) => void;
}) {
  const [ids, setIds] = useState(() => entries.map(newId));
  const [open, setOpen] = useState<string>();
  const left = pages.filter(({ slug }) => slug !== '' && !used.has(slug));
  const change = (at: number, entry: FullEntry) =>
    onChange(entries.map((old, index) => (index === at ? entry : old)));
  const add = (entry: FullEntry) => {
    const id = newId();
    setIds([...ids, id]);
    if (entry.page === undefined) setOpen(id);
    onChange([...entries, entry]);
  };
  const move = (at: number, by: -1 | 1) => {
    setIds(moved(ids, at, by));
    onChange(moved(entries, at, by));
  };
  const remove = (at: number) => {
    setIds(ids.toSpliced(at, 1));
    onChange(entries.toSpliced(at, 1));
  };
  return (
    <>
      <ul
        className={isInner ? 'mb-1 border-l border-line pl-2' : 'mt-1 rounded-md border border-line bg-paper'}
      >
        {entries.map((entry, at) => {
          const id = ids[at] ?? String(at);
          const name = nameOf(entry, pages);
          return (
            <li key={id} className={isInner ? '' : 'border-b border-line/60 px-2 py-0.5 last:border-0'}>
              <div className="flex items-center">
                <span className="min-w-0 flex-1 truncate">{name}</span>
                <span className="mr-1 flex gap-0.5">
                  {entry.variants.map(({ audience }, index) => (
                    <VariantMark key={audience} choice={index} />
                  ))}
                </span>
                <IconButton
                  label={`Settings of ${name} in the menu`}
                  aria-expanded={open === id}
                  onClick={() => setOpen(open === id ? undefined : id)}
                >
                  <SlidersHorizontal size={14} />
                </IconButton>
                <IconButton label={`Move ${name} up`} disabled={at === 0} onClick={() => move(at, -1)}>
                  <ArrowUp size={14} />
                </IconButton>
                <IconButton
                  label={`Move ${name} down`}
                  disabled={at === entries.length - 1}
                  onClick={() => move(at, 1)}
                >
                  <ArrowDown size={14} />
                </IconButton>
                <IconButton label={`Remove ${name} from the menu`} onClick={() => remove(at)}>
                  <Trash2 size={14} />
                </IconButton>
              </div>
              {open === id && (
                <MenuEntrySettings
                  entry={entry}
                  name={name}
                  canHold={!isInner}
                  audiences={audiences}
                  onChange={(next) => change(at, next)}
                />
              )}
              {entry.entries && (
                <Entries
                  entries={entry.entries.map(fullEntry)}
                  isInner
                  pages={pages}
                  used={used}
                  audiences={audiences}
                  onChange={(inner) => change(at, { ...entry, entries: inner.map(innerEntry) })}
                />
              )}
            </li>
          );
        })}
        {entries.length === 0 && <li className="px-2 py-1 text-quiet">No entries yet</li>}
      </ul>
      <div className="my-1 flex flex-wrap gap-1">
        {left.length > 0 && (
          <PickButton
            label={isInner ? 'Add a page below…' : 'Add a page…'}
            options={left.map(({ slug, name }) => ({ id: slug, label: name }))}
            onChoose={(page) => add({ page, ...everywhere })}
          />
        )}
        <Button
          icon={<Plus size={15} aria-hidden />}
          onClick={() => add({ name: 'New link', address: '/site/', ...everywhere })}
        >
          {isInner ? 'Add a link below' : 'Add a link'}
        </Button>
        {!isInner && (
          <Button
            icon={<Plus size={15} aria-hidden />}
            onClick={() => add({ name: 'New group', entries: [], ...everywhere })}
          >
            Add a group
          </Button>
        )}
      </div>
    </>
  );
}

/** An entry as it stands below another one, where nothing can stand below it. */
function innerEntry(entry: FullEntry): NonNullable<FullEntry['entries']>[number] {
  const { entries: _, ...single } = entry;
  const brief = briefEntry(single);
  return typeof brief === 'string' ? brief : single;
}

function moved<Thing>(things: readonly Thing[], at: number, by: -1 | 1): Thing[] {
  const next = [...things];
  next.splice(at + by, 0, ...next.splice(at, 1));
  return next;
}
