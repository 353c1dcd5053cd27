import { ChevronLeft, ChevronRight, Search } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { contactPageSchema, pageSize } from '../../../contract/people.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { IconButton } from '../../parts/button.tsx';
import { Initials } from '../../parts/person.tsx';

/** The people in a condition, page by page, with search; each with its values of what the condition tests. */
export function Members({
  condition,
  tested,
}: {
  condition: Condition;
  /** Contact attributes that the condition asks for. */
  tested: readonly Attribute[];
}) {
  const [search, setSearch] = useState('');
  const [page, setPage] = useState(0);
  const where = JSON.stringify(condition);
  // Another condition begins at its first page.
  const [shownOf, setShownOf] = useState(where);
  if (shownOf !== where) {
    setShownOf(where);
    setPage(0);
  }
  const query = new URLSearchParams({ where, search, page: String(page) });
  const { data } = useApi(`/contacts?${query}`, contactPageSchema);
  const pages = Math.max(1, Math.ceil((data?.matching ?? 0) / pageSize));
  return (
    <section aria-label="Members" className="mt-5">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="text-[16px]">Who they are</h2>
        <label className="ml-auto flex h-8 w-44 items-center gap-2 rounded-md border border-line bg-paper px-2 focus-within:border-edge">
          <Search size={14} className="text-quiet" aria-hidden />
          <input
            aria-label="Search members"
            placeholder="Name or email"
            className="w-full bg-transparent outline-none"
            value={search}
            maxLength={200}
            onChange={(event) => {
              setSearch(event.target.value);
              setPage(0);
            }}
          />
        </label>
      </div>
      {data?.matching === 0 && (
        <p className="text-quiet">
          {search.trim() === ''
            ? 'Nobody today. Loosen a test, or check how many people lack a value.'
            : 'No matches.'}
        </p>
      )}
      <ul className="flex max-h-[340px] flex-col gap-2 overflow-y-auto">
        {data?.contacts.map((person) => (
          <li key={person.id} className="flex items-center gap-2.5">
            <Initials name={person.name} />
            <span className="min-w-0">
              <Link to={`/people/${person.id}`} className="block truncate font-medium hover:underline">
                {person.name}
              </Link>
              <span className="block truncate text-[12px] leading-4 text-quiet">
                {tested
                  .flatMap((attribute) => {
                    const value = readValue(attribute, person.values[attribute.id]);
                    return value === undefined ? [] : [formatValue(attribute, value)];
                  })
                  .slice(0, 3)
                  .join(' · ') || person.email}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {data && data.matching > pageSize && (
        <div className="mt-2 flex items-center gap-1 text-quiet">
          <IconButton label="Previous people" disabled={page === 0} onClick={() => setPage(page - 1)}>
            <ChevronLeft size={15} />
          </IconButton>
          {count(page * pageSize + 1)}–{count(Math.min((page + 1) * pageSize, data.matching))} of{' '}
          {count(data.matching)}
          <IconButton label="Next people" disabled={page + 1 >= pages} onClick={() => setPage(page + 1)}>
            <ChevronRight size={15} />
          </IconButton>
          <Link to={`/people?where=${encodeURIComponent(where)}`} className="ml-auto underline">
            As a table
          </Link>
        </div>
      )}
    </section>
  );
}
