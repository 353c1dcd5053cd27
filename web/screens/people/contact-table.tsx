import { createColumnHelper, tableFeatures, useTable } from '@tanstack/react-table';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useMemo } from 'react';
import { Link } from 'react-router';
import type { PersonRecord } from '../../../contract/people.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { formatValue } from '../../../core/attributes/format.ts';
import { readValue } from '../../../core/attributes/parse.ts';
import { Initials } from '../../parts/person.tsx';

const features = tableFeatures({});
const helper = createColumnHelper<typeof features, PersonRecord>();

/**
 * A page of contacts with a column for each attribute.
 *
 * @param onTick some contacts by their ids, and whether they are ticked now
 */
export function ContactTable({
  contacts,
  attributes,
  sort,
  direction,
  ticked,
  onSort,
  onTick,
}: {
  contacts: readonly PersonRecord[];
  attributes: readonly Attribute[];
  sort: string;
  direction: 'up' | 'down';
  ticked: ReadonlySet<number>;
  onSort: (by: string, direction: 'up' | 'down') => void;
  onTick: (ids: readonly number[], on: boolean) => void;
}) {
  const columns = useMemo(
    () => [
      helper.display({
        id: 'name',
        header: 'Name',
        cell: ({ row }) => <NameCell person={row.original} />,
      }),
      ...attributes.map((attribute) =>
        helper.display({
          id: attribute.id,
          header: attribute.label,
          cell: ({ row }) => {
            const value = readValue(attribute, row.original.values[attribute.id]);
            return value === undefined ? (
              <span className="text-quiet">
                <span aria-hidden>–</span>
                <span className="sr-only">no value</span>
              </span>
            ) : (
              formatValue(attribute, value)
            );
          },
        }),
      ),
    ],
    [attributes],
  );
  const table = useTable({ features, columns, data: contacts });
  const ids = contacts.map(({ id }) => id);
  return (
    <table className="w-full border-separate border-spacing-0">
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id}>
            <th className="sticky top-0 z-10 w-8 border-b border-line bg-paper py-2 pl-3">
              <Tick
                label="Select everyone on this page"
                ticked={ids.length > 0 && ids.every((id) => ticked.has(id))}
                onTick={(on) => onTick(ids, on)}
              />
            </th>
            {group.headers.map((header) => (
              <th
                key={header.id}
                scope="col"
                aria-sort={sort !== header.id ? 'none' : direction === 'up' ? 'ascending' : 'descending'}
                className="sticky top-0 z-10 border-b border-line bg-paper text-left font-medium"
              >
                <button
                  type="button"
                  className="flex w-full items-center gap-1 px-3 py-2 hover:bg-linen"
                  onClick={() => onSort(header.id, sort === header.id && direction === 'up' ? 'down' : 'up')}
                >
                  <span className="first-letter:uppercase">
                    <table.FlexRender header={header} />
                  </span>
                  {sort === header.id &&
                    (direction === 'up' ? (
                      <ArrowUp size={14} aria-hidden />
                    ) : (
                      <ArrowDown size={14} aria-hidden />
                    ))}
                </button>
              </th>
            ))}
          </tr>
        ))}
      </thead>
      <tbody>
        {table.getRowModel().rows.map((row) => (
          <tr key={row.id} className="hover:bg-linen/60">
            <td className="border-b border-line/60 py-1.5 pl-3">
              <Tick
                label={`Select ${row.original.name}`}
                ticked={ticked.has(row.original.id)}
                onTick={(on) => onTick([row.original.id], on)}
              />
            </td>
            {row.getAllCells().map((cell) => (
              <td key={cell.id} className="max-w-56 truncate border-b border-line/60 px-3 py-1.5">
                <table.FlexRender cell={cell} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Tick({ label, ticked, onTick }: { label: string; ticked: boolean; onTick: (on: boolean) => void }) {
  return (
    <input
      type="checkbox"
      aria-label={label}
      className="block accent-leaf"
      checked={ticked}
      onChange={(event) => onTick(event.target.checked)}
    />
  );
}

function NameCell({ person }: { person: PersonRecord }) {
  return (
    <span className="flex items-center gap-2.5">
      <Initials name={person.name} />
      <span className="min-w-0">
        <Link to={`/people/${person.id}`} className="block truncate font-semibold hover:underline">
          {person.name}
        </Link>
        <span className="block truncate text-[12px] leading-4 text-quiet">{person.email}</span>
      </span>
    </span>
  );
}
