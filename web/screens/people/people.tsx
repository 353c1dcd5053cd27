import { ListFilter, RefreshCw, Tags, Upload, UserPen, UserPlus, X } from 'lucide-react';
import { lazy, Suspense, useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { contactPageSchema, pageSize } from '../../../contract/people.ts';
import { type Condition, conditionSchema, type Test } from '../../../core/conditions/condition.ts';
import { useAddressFlag } from '../../data/address-flag.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { audienceNames, useAudiences, useCatalogue } from '../../data/data.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { AddTest } from '../../parts/condition/add-test.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { Empty, Notice } from '../../parts/notice.tsx';
import { Select } from '../../parts/select.tsx';
import { ContactTable } from './contact-table.tsx';
import { ExportMenu } from './export-menu.tsx';
import { NewPerson } from './new-person.tsx';
import { SearchBox } from './search-box.tsx';
import { ColumnMenu, useShownColumns } from './shown-columns.tsx';
import { useWholeFilters } from './use-whole-filters.ts';

// How conditions are said and written is loaded with the first filter.
const Said = lazy(async () => ({ default: (await import('../../parts/condition/said.tsx')).Said }));
const TestSentence = lazy(async () => ({
  default: (await import('../../parts/condition/test-sentence.tsx')).TestSentence,
}));

const CameWith = lazy(async () => ({ default: (await import('./came-with.tsx')).CameWith }));
const ChangePeople = lazy(async () => ({ default: (await import('./change-people.tsx')).ChangePeople }));

/** More would not fit into the address of the export. */
const mostTicked = 1000;

export function Component() {
  const catalogue = useCatalogue();
  const { data: audiences = [] } = useAudiences();
  const [parameters, setParameters] = useSearchParams();
  const [filters, setFilters] = useState<Test[]>([]);
  const [added, setAdded] = useState<Test>();
  const [adding, setAdding] = useAddressFlag('new');
  useTabTitle('People');
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [shown, setShown] = useShownColumns(catalogue?.attributes ?? []);
  const search = parameters.get('search') ?? '';
  const sort = parameters.get('sort') ?? 'name';
  const direction = parameters.get('direction') === 'down' ? 'down' : 'up';
  const page = Math.max(0, Number(parameters.get('page') ?? 0) || 0);
  const audience = parameters.get('audience') ?? '';
  const importId = /^[1-9]\d{0,9}$/.exec(parameters.get('import') ?? '')?.[0];
  const [changing, setChanging] = useState(false);
  const given = useMemo(() => givenCondition(parameters.get('where')), [parameters]);

  const query = new URLSearchParams({ search, sort, direction, page: String(page) });
  if (audience) query.set('audience', audience);
  if (importId !== undefined) query.set('import', importId);
  const whole = useWholeFilters(filters, catalogue);
  const where = [...(given ? [given] : []), ...whole];
  if (where.length > 0) query.set('where', JSON.stringify({ kind: 'all', of: where }));
  const { data, error } = useApi(`/contacts?${query}`, contactPageSchema);

  const nameOf = audienceNames(audiences);

  const change = (values: Record<string, string>) => {
    const next = new URLSearchParams(parameters);
    for (const [key, value] of Object.entries({ page: '0', ...values })) {
      if (value === '' || (key === 'page' && value === '0')) next.delete(key);
      else next.set(key, value);
    }
    setParameters(next, { replace: true });
  };

  const columns = useMemo(() => shown.flatMap((id) => catalogue?.get(id) ?? []), [catalogue, shown]);
  const pages = Math.max(1, Math.ceil((data?.matching ?? 0) / pageSize));
  const tick = (ids: readonly number[], on: boolean) => {
    const next = new Set(ticked);
    for (const id of ids)
      if (!on) next.delete(id);
      else if (next.size < mostTicked) next.add(id);
    setTicked(next);
  };

  return (
    <div className="flex h-full flex-col px-6 pt-5">
      <div className="flex items-baseline gap-4">
        <h1 className="text-[26px] leading-8">People</h1>
        {data && (
          <p className="text-quiet" role="status">
            {data.matching === data.total
              ? `${count(data.total)} contacts`
              : `${count(data.matching)} of ${count(data.total)} contacts`}
          </p>
        )}
        <Link
          to="/people/attributes"
          className="ml-auto inline-flex h-9 items-center gap-2 rounded-md px-3 text-quiet hover:text-ink"
        >
          <Tags size={15} aria-hidden /> Attributes
        </Link>
        <Link
          to="/people/sync"
          className="inline-flex h-9 items-center gap-2 rounded-md px-3 text-quiet hover:text-ink"
        >
          <RefreshCw size={15} aria-hidden /> CRM sync
        </Link>
        <Button className="h-9" onClick={() => setAdding(true)}>
          <UserPlus size={15} aria-hidden /> Add contact
        </Button>
        <Dialog
          open={adding}
          onClose={() => setAdding(false)}
          title="Add contact"
          description="You can fill in everything else on their page."
        >
          {adding && <NewPerson />}
        </Dialog>
        <Link
          to="/people/import"
          className="inline-flex h-9 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
        >
          <Upload size={15} aria-hidden /> Import people
        </Link>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <SearchBox value={search} onChange={(value) => change({ search: value })} />
        <Select
          aria-label="Audience"
          value={audience}
          onChange={(id) => change({ audience: id })}
          className="max-w-56"
          options={[
            { value: '', label: 'everybody' },
            ...audiences.map((option) => ({ value: option.id, label: `in “${option.name}”` })),
          ]}
        />
        {importId !== undefined && (
          <span className="inline-flex min-h-9 max-w-xl items-center gap-1 rounded-md border border-line bg-paper pl-3 pr-1">
            <Suspense>
              <CameWith id={importId} />
            </Suspense>
            <IconButton label="Remove this filter" onClick={() => change({ import: '' })}>
              <X size={14} />
            </IconButton>
          </span>
        )}
        {given && catalogue && (
          <span className="inline-flex min-h-9 max-w-xl items-center gap-1 rounded-md border border-line bg-paper pl-3 pr-1">
            <Suspense>
              <Said condition={given} catalogue={catalogue} nameOf={nameOf} />
            </Suspense>
            <IconButton label="Remove this condition" onClick={() => change({ where: '' })}>
              <X size={14} />
            </IconButton>
          </span>
        )}
        {catalogue &&
          filters.map((filter, index) => (
            <span
              key={`${filter.attribute}-${String(index)}`}
              className="inline-flex min-h-9 items-center gap-1 rounded-md border border-line bg-paper pl-3 pr-1"
            >
              <Suspense>
                <TestSentence
                  test={filter}
                  catalogue={catalogue}
                  openAtFirst={filter === added}
                  onChange={(next) => {
                    setFilters(filters.map((other) => (other === filter ? next : other)));
                    change({});
                  }}
                />
              </Suspense>
              <IconButton
                label="Remove this filter"
                onClick={() => {
                  setFilters(filters.filter((other) => other !== filter));
                  change({});
                }}
              >
                <X size={14} />
              </IconButton>
            </span>
          ))}
        {catalogue && (
          <AddTest
            catalogue={catalogue}
            label="Add a filter"
            trigger={
              <Button look="quiet" icon={<ListFilter size={15} aria-hidden />}>
                Filter by…
              </Button>
            }
            onAdd={(test) => {
              setFilters([...filters, test]);
              setAdded(test);
              change({});
            }}
          />
        )}
        <span className="ml-auto flex">
          {ticked.size > 0 && (
            <Button look="quiet" onClick={() => setTicked(new Set())}>
              Clear selection
            </Button>
          )}
          {catalogue && data && data.matching > 0 && (
            <Button look="quiet" icon={<UserPen size={15} aria-hidden />} onClick={() => setChanging(true)}>
              Edit {ticked.size > 0 ? `${count(ticked.size)} selected` : `all ${count(data.matching)}`}
            </Button>
          )}
          {catalogue && (
            <Dialog
              open={changing}
              onClose={() => setChanging(false)}
              title={`Edit ${count(ticked.size > 0 ? ticked.size : (data?.matching ?? 0))} people`}
              description="Nothing is changed before you have seen what would change."
            >
              <Suspense>
                <ChangePeople catalogue={catalogue} ids={[...ticked]} query={query} />
              </Suspense>
            </Dialog>
          )}
          <ExportMenu query={query} matching={data?.matching ?? 0} ticked={[...ticked]} />
          <ColumnMenu attributes={catalogue?.attributes ?? []} shown={shown} onChange={setShown} />
        </span>
      </div>
      {error && (
        <div className="mt-3">
          <Notice kind="wrong" title={error.message} />
        </div>
      )}
      <section
        aria-label="Contacts"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        className="mt-3 min-h-0 flex-1 overflow-auto rounded-t-md border border-b-0 border-line bg-paper"
      >
        {data?.total === 0 ? (
          <div className="p-8">
            <Empty title="No contacts yet">
              <Link to="/people/import" className="underline">
                Import a file of people
              </Link>
              , or add them one at a time.
            </Empty>
          </div>
        ) : data?.matching === 0 ? (
          <div className="p-8">
            <Empty title="Nobody matches">
              <Button
                onClick={() => {
                  setFilters([]);
                  setParameters({});
                }}
              >
                Show everybody
              </Button>
            </Empty>
          </div>
        ) : (
          <ContactTable
            contacts={data?.contacts ?? []}
            attributes={columns}
            sort={sort}
            direction={direction}
            ticked={ticked}
            onSort={(by, way) => change({ sort: by, direction: way })}
            onTick={tick}
          />
        )}
      </section>
      <div className="flex h-11 shrink-0 items-center justify-end gap-3 border-t border-line">
        <span className="text-quiet">
          Page {count(page + 1)} of {count(pages)}
        </span>
        <Button className="h-8" disabled={page === 0} onClick={() => change({ page: String(page - 1) })}>
          Previous
        </Button>
        <Button
          className="h-8"
          disabled={page + 1 >= pages}
          onClick={() => change({ page: String(page + 1) })}
        >
          Next
        </Button>
      </div>
    </div>
  );
}

/** The condition that another screen led here with; nothing where the address was damaged. */
function givenCondition(text: string | null): Condition | undefined {
  if (!text) return undefined;
  try {
    return conditionSchema.safeParse(JSON.parse(text)).data;
  } catch {
    return undefined;
  }
}
