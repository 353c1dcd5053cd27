import { ArrowDown, ArrowUp, ChevronLeft, Download, Plus, Settings2, Upload } from 'lucide-react';
import { useCallback, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { type ListedCollection, type StoredItem, storedItemsSchema } from '../../../contract/collections.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import { isPublished } from '../../../core/deciding/library.ts';
import { callWithoutAnswer, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { audienceNames, useAudiences, useCollections } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Empty } from '../../parts/notice.tsx';
import { toast } from '../../parts/toast.tsx';
import { useUnsavedChanges } from '../../parts/unsaved-changes.tsx';
import { CollectionSettings } from './collection-settings.tsx';
import { ItemImport } from './item-import.tsx';
import { ItemPanel } from './item-panel.tsx';

const head = 'sticky top-0 z-10 border-b border-line bg-paper px-3 py-2 text-left font-medium';
const cell = 'max-w-56 truncate border-b border-line/60 px-3 py-1.5';

export function Component() {
  const { id = '' } = useParams();
  const { data: collections } = useCollections();
  useTabTitle(collections?.find((one) => one.id === id)?.name);
  if (!collections) return null;
  const collection = collections.find((one) => one.id === id);
  if (!collection)
    return (
      <div className="p-8">
        <Empty title="There is no such collection; it may have been deleted">
          <Link to="/collections" className="underline">
            All collections
          </Link>
        </Empty>
      </div>
    );
  return <Items key={id} collection={collection} />;
}

/** The items of a collection as a table; the chosen one, or the collection's own settings, beside it. */
function Items({ collection }: { collection: ListedCollection }) {
  const path = `/collections/${collection.id}/items`;
  const { data: items = [] } = useApi(path, storedItemsSchema);
  const { data: audiences = [] } = useAudiences();
  const nameOf = audienceNames(audiences);
  const { since } = useLooking();
  const [chosen, setChosen] = useState<string>();
  const isDirty = useRef(false);
  const noteDirty = useCallback((is: boolean) => {
    isDirty.current = is;
  }, []);
  const unsaved = useUnsavedChanges(() => isDirty.current);
  const choose = (next: string | undefined) => {
    if (next !== chosen) unsaved.guarded(() => setChosen(next));
  };
  const [importing, setImporting] = useState(false);
  const item = items.find(({ id }) => id === chosen);
  const fields = collection.fields.filter(({ use }) => use === 'value').slice(0, 3);
  const move = async (of: StoredItem, by: -1 | 1) => {
    const ids = items.map(({ id }) => id);
    const at = ids.indexOf(of.id);
    ids.splice(at, 1);
    ids.splice(at + by, 0, of.id);
    try {
      await callWithoutAnswer('PUT', `/collections/${collection.id}/order`, { ids });
    } catch (error) {
      toast.error(messageOf(error));
    }
  };
  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[1fr_380px]">
      <div className="flex min-w-0 flex-col px-6 pt-5">
        <Link to="/collections" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
          <ChevronLeft size={15} aria-hidden /> All collections
        </Link>
        <div className="mt-1 flex items-baseline gap-3">
          <h1 className="text-[26px] leading-8">{collection.name}</h1>
          <p className="text-quiet" role="status">
            {count(items.length)} {items.length === 1 ? 'item' : 'items'}
          </p>
          <span className="ml-auto flex gap-1">
            <Button look="quiet" icon={<Upload size={15} aria-hidden />} onClick={() => setImporting(true)}>
              Import
            </Button>
            <a
              href={`/api/collections/${collection.id}/export/csv`}
              download
              className="inline-flex h-9 items-center gap-2 rounded-md px-3 text-quiet hover:bg-line/40 hover:text-ink"
            >
              <Download size={15} aria-hidden /> CSV
            </a>
            <a
              href={`/api/collections/${collection.id}/export/json`}
              download
              className="inline-flex h-9 items-center gap-2 rounded-md px-3 text-quiet hover:bg-line/40 hover:text-ink"
            >
              <Download size={15} aria-hidden /> JSON
            </a>
            <Button
              look={chosen === undefined ? 'plain' : 'quiet'}
              icon={<Settings2 size={15} aria-hidden />}
              onClick={() => choose(undefined)}
            >
              Fields and access
            </Button>
            <Button icon={<Plus size={15} aria-hidden />} onClick={() => choose('new')}>
              New item
            </Button>
          </span>
        </div>
        <section
          aria-label="Items"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
          tabIndex={0}
          className="mb-4 mt-3 min-h-0 flex-1 overflow-auto rounded-md border border-line bg-paper"
        >
          {items.length === 0 ? (
            <div className="p-8">
              <Empty title="No item yet">
                <Button onClick={() => choose('new')}>Write the first item</Button>
              </Empty>
            </div>
          ) : (
            <table className="w-full border-separate border-spacing-0">
              <thead>
                <tr>
                  <th scope="col" className={head}>
                    Title
                  </th>
                  {fields.map(({ attribute }) => (
                    <th key={attribute.id} scope="col" className={`${head} first-letter:uppercase`}>
                      {attribute.label}
                    </th>
                  ))}
                  <th scope="col" className={head}>
                    Open to
                  </th>
                  <th scope="col" className={head}>
                    Order
                  </th>
                </tr>
              </thead>
              <tbody>
                {items.map((one, at) => (
                  <tr key={one.id} className={one.id === chosen ? 'bg-linen' : 'hover:bg-linen/60'}>
                    <td className={cell}>
                      <button
                        type="button"
                        aria-pressed={one.id === chosen}
                        className="font-semibold hover:underline"
                        onClick={() => choose(one.id)}
                      >
                        {one.title}
                      </button>
                      {!isPublished(one, since) && (
                        <div className="text-[12px] text-honey">not published now</div>
                      )}
                    </td>
                    {fields.map(({ attribute }) => {
                      const value = readValue(attribute, one.values[attribute.id]);
                      return (
                        <td key={attribute.id} className={cell}>
                          {value === undefined ? (
                            <span className="text-quiet">no value</span>
                          ) : (
                            formatValue(attribute, value)
                          )}
                        </td>
                      );
                    })}
                    <td className={cell}>
                      {[collection.access, one.access]
                        .flatMap((access) => (access === null ? [] : [nameOf(access)]))
                        .join(' who are also ') || 'everybody'}
                      {one.listed && (
                        <span className="block text-[12px] text-quiet">
                          in lists for {one.listed.to === 'only' ? 'only' : 'all but'}{' '}
                          {nameOf(one.listed.audience)}
                        </span>
                      )}
                    </td>
                    <td className={`${cell} whitespace-nowrap`}>
                      <IconButton
                        label={`Move ${one.title} up`}
                        disabled={at === 0}
                        onClick={() => move(one, -1)}
                      >
                        <ArrowUp size={14} />
                      </IconButton>
                      <IconButton
                        label={`Move ${one.title} down`}
                        disabled={at === items.length - 1}
                        onClick={() => move(one, 1)}
                      >
                        <ArrowDown size={14} />
                      </IconButton>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
      </div>
      <aside
        aria-label={chosen === undefined ? 'Fields and access' : 'The item'}
        className="overflow-y-auto border-l border-line px-5 py-5"
      >
        {chosen === undefined || (chosen !== 'new' && !item) ? (
          <CollectionSettings
            key={collection.revision}
            collection={collection}
            audiences={audiences}
            onDirty={noteDirty}
            onDeleted={unsaved.settle}
          />
        ) : (
          <ItemPanel
            key={item ? `${item.id} ${item.revision}` : 'new'}
            collection={collection}
            item={item}
            audiences={audiences}
            onDirty={noteDirty}
            onDone={(id) => setChosen(id)}
          />
        )}
      </aside>
      {unsaved.question}
      <ItemImport collection={collection} open={importing} onClose={() => setImporting(false)} />
    </div>
  );
}
