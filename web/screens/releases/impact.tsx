import { impactAnswerSchema } from '../../../contract/releases.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { ScrollList } from '../../parts/scroll-list.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { rowsOf, type Step, sayContacts, sayParts, sayWho } from './impact-rows.ts';

const rowsShown = 5;
const percent = new Intl.NumberFormat('en-GB', { style: 'percent' });

/**
 * Who would see something else after a release, proved before it is made.
 *
 * @param release an earlier one that would be live again; the drafts when not given
 */
export function ImpactList({ release }: { release?: number }) {
  const path = release === undefined ? '/releases/impact' : `/releases/${release}/impact`;
  const { data, error } = useApi(path, impactAnswerSchema);
  if (error) return <p className="text-quiet">Who is affected couldn’t be worked out: {error.message}</p>;
  if (!data || 'job' in data)
    return (
      <p className="text-quiet" role="status">
        Working out who is affected… {data?.progress != null && percent.format(data.progress)}
      </p>
    );
  return (
    <section aria-label="Who is affected" className="flex flex-col gap-2">
      <h3 className="text-[14px]">Who is affected</h3>
      {data.documents.length === 0 ? (
        <p className="text-quiet">Nobody. Every page and email stays the same for everyone.</p>
      ) : (
        <ScrollList className="max-h-[220px] rounded-md border border-line">
          {data.documents.map((document) => (
            <li key={document.id} className="border-b border-line/60 px-3 py-2 last:border-0">
              <div>
                <strong>{document.name}</strong>: {sayWho(document, data.total)}
                {sayParts(document) && <span className="text-quiet"> ({sayParts(document)})</span>}
              </div>
              <ul className="mt-1 flex flex-col gap-0.5 text-quiet">
                {rowsOf(document)
                  .slice(0, rowsShown)
                  .map((row) => (
                    <li key={row.key} className="flex flex-wrap items-center gap-x-2">
                      <Steps steps={row.steps} />
                      <span>{sayContacts(row)}</span>
                    </li>
                  ))}
                {rowsOf(document).length > rowsShown && (
                  <li>and {count(rowsOf(document).length - rowsShown)} more kinds of change</li>
                )}
                {!document.complete && <li>More changes are possible than could be listed.</li>}
              </ul>
            </li>
          ))}
        </ScrollList>
      )}
      {data.itemsLeft > 0 && (
        <p className="text-quiet">
          {count(data.itemsLeft)} more {data.itemsLeft === 1 ? 'item changes' : 'items change'} for somebody.
        </p>
      )}
    </section>
  );
}

function Steps({ steps }: { steps: readonly Step[] | string }) {
  if (typeof steps === 'string') return <span className="text-ink">{steps}</span>;
  return steps.map(({ name, from, to, left, right }) => (
    <span key={name} className="inline-flex flex-wrap items-center gap-1 text-ink">
      {name}: <VariantMark choice={from} /> {left} → <VariantMark choice={to} /> {right}
    </span>
  ));
}
