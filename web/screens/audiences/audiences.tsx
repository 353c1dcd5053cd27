import { ArrowDown, ArrowUp, Grid2x2, Plus, Search } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { ConditionAnalysis } from '../../../core/analysis/condition-analysis.ts';
import { say } from '../../../core/conditions/words.ts';
import { useAudienceFindings } from '../../data/analysis.ts';
import { count } from '../../data/count.ts';
import { useDecidedPer } from '../../data/counts.ts';
import { audienceNames, useAudiences, useCatalogue } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { saidInstant } from '../../data/moment.ts';
import { useTabTitle } from '../../data/tab-title.ts';
import { Empty } from '../../parts/notice.tsx';
import { StillReading } from './still-reading.tsx';

const head = 'sticky top-0 z-10 border-b border-line bg-paper text-left font-medium';
const cell = 'border-b border-line/60 px-3 py-2 align-top';

const columns = [
  ['name', 'Audience'],
  ['who', 'Who'],
  ['count', 'People'],
  ['uses', 'Used in'],
  ['findings', 'Findings'],
  ['owner', 'Owner'],
  ['changed', 'Last change'],
] as const;
const severities = ['wrong', 'careful', 'note'];
type Sort = Exclude<(typeof columns)[number][0], 'who'>;

export function Component() {
  const { data: audiences } = useAudiences();
  useTabTitle('Audiences');
  const decidedPer = useDecidedPer();
  const catalogue = useCatalogue();
  const { since } = useLooking();
  const findings = useAudienceFindings(since);
  const [search, setSearch] = useState('');
  const [away, setAway] = useState(false);
  const [sort, setSort] = useState<{ by: Sort; down: boolean }>({ by: 'name', down: false });
  const nameOf = audienceNames(audiences);
  const foundIn = (audience: ListedAudience) =>
    audience.problems.length + audience.brokenExamples + (findings?.get(audience.id)?.findings.length ?? 0);
  const wanted = search.trim().toLowerCase();
  const listed = (audiences ?? [])
    .filter(({ archivedAt }) => (archivedAt !== null) === away)
    .filter((audience) =>
      `${audience.name} ${audience.description} ${audience.ownerName} ${audience.uses.map(({ name }) => name).join(' ')}`
        .toLowerCase()
        .includes(wanted),
    )
    .sort((one, two) => {
      const order = {
        name: () => one.name.localeCompare(two.name),
        count: () => (one.count ?? 0) - (two.count ?? 0),
        uses: () => one.uses.length - two.uses.length,
        findings: () => foundIn(one) - foundIn(two),
        owner: () => one.ownerName.localeCompare(two.ownerName),
        changed: () => one.updatedAt.localeCompare(two.updatedAt),
      }[sort.by]();
      return (sort.down ? -order : order) || one.name.localeCompare(two.name);
    });
  const put = (audiences ?? []).filter(({ archivedAt }) => archivedAt !== null).length;
  return (
    <div className="flex h-full flex-col px-6 pt-5">
      <div className="flex items-baseline gap-4">
        <h1 className="text-[26px] leading-8">Audiences</h1>
        <p className="text-quiet">Name a group once, use it in many places</p>
        <Link
          to="/audiences/compare"
          className="ml-auto inline-flex h-9 items-center gap-2 rounded-md px-3 text-quiet hover:text-ink"
        >
          <Grid2x2 size={15} aria-hidden /> Compare
        </Link>
        <Link
          to="/audiences/new"
          className="inline-flex h-9 items-center gap-2 rounded-md border border-line bg-paper px-3 hover:border-edge"
        >
          <Plus size={15} aria-hidden /> New audience
        </Link>
      </div>
      <div className="mt-3 flex items-center gap-4">
        <label className="flex h-9 w-64 items-center gap-2 rounded-md border border-line bg-paper px-3 focus-within:border-edge">
          <Search size={15} className="text-quiet" aria-hidden />
          <input
            aria-label="Search audiences by name, owner or use"
            placeholder="Name, owner or where used"
            className="w-full bg-transparent outline-none"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        </label>
        {put > 0 && (
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              className="accent-leaf"
              checked={away}
              onChange={(event) => setAway(event.target.checked)}
            />
            the {count(put)} archived
          </label>
        )}
      </div>
      {audiences?.some((audience) => audience.count === null) && <StillReading />}
      <section
        aria-label="All audiences"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        className="mb-4 mt-3 min-h-0 flex-1 overflow-auto rounded-md border border-line bg-paper"
      >
        {audiences && listed.length === 0 ? (
          <div className="p-8">
            <Empty title={audiences.length === 0 ? 'No audience yet' : 'No audience matches'}>
              {audiences.length === 0 && (
                <Link to="/audiences/new" className="underline">
                  Create the first audience
                </Link>
              )}
            </Empty>
          </div>
        ) : (
          <table className="w-full border-separate border-spacing-0">
            <thead>
              <tr>
                {columns.map(([key, title]) => (
                  <Head
                    key={key}
                    title={title}
                    right={key === 'count'}
                    sorted={key === sort.by ? (sort.down ? 'down' : 'up') : undefined}
                    onSort={
                      key === 'who'
                        ? undefined
                        : () =>
                            setSort({
                              by: key,
                              down: key === sort.by ? !sort.down : !['name', 'owner'].includes(key),
                            })
                    }
                  />
                ))}
              </tr>
            </thead>
            <tbody>
              {listed.map((audience) => (
                <tr key={audience.id} className="hover:bg-linen/60">
                  <td className={`${cell} min-w-48`}>
                    <Link to={`/audiences/${audience.id}`} className="font-semibold hover:underline">
                      {audience.name}
                    </Link>
                    <div className="text-quiet">{audience.description}</div>
                  </td>
                  <td className={`${cell} max-w-md`}>
                    {audience.problems.length > 0 ? (
                      <span className="text-apple">{audience.problems[0]?.message}</span>
                    ) : (
                      catalogue && say(audience.condition, catalogue, nameOf)
                    )}
                  </td>
                  <td className={`${cell} whitespace-nowrap text-right`}>
                    {decidedPer(audience.condition) ? (
                      <span className="text-quiet">decided per {decidedPer(audience.condition)}</span>
                    ) : (
                      <>
                        <strong>{audience.count === null ? '…' : count(audience.count)}</strong>
                        <SinceRelease audience={audience} />
                      </>
                    )}
                  </td>
                  <td className={cell}>
                    {audience.uses.length === 0 ? (
                      <span className="text-quiet">nowhere yet</span>
                    ) : (
                      audience.uses.map((use) => use.name).join(', ')
                    )}
                  </td>
                  <td className={cell}>
                    <FoundIn audience={audience} analysis={findings?.get(audience.id)} />
                  </td>
                  <td className={`${cell} whitespace-nowrap`}>
                    {audience.ownerName || <span className="text-quiet">nobody</span>}
                  </td>
                  <td className={`${cell} whitespace-nowrap text-quiet`}>
                    {saidInstant(audience.updatedAt)}
                    <div>{audience.accountName}</div>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
    </div>
  );
}

/** The gravest thing that is found about an audience; what is merely worth knowing is quiet. */
function FoundIn({
  audience,
  analysis,
}: {
  audience: ListedAudience;
  analysis: ConditionAnalysis | undefined;
}) {
  const sentences = [
    ...audience.problems.map(({ message }) => ({ severity: 'wrong' as const, sentence: message })),
    ...(audience.brokenExamples === 0
      ? []
      : [
          {
            severity: 'wrong' as const,
            sentence:
              audience.brokenExamples === 1
                ? 'One example is in the wrong place.'
                : `${audience.brokenExamples} examples are in the wrong place.`,
          },
        ]),
    ...(analysis?.findings ?? []),
    ...(analysis?.refused === undefined ? [] : [{ severity: 'note' as const, sentence: analysis.refused }]),
  ].sort((one, two) => severities.indexOf(one.severity) - severities.indexOf(two.severity));
  const [first] = sentences;
  if (!first) return analysis && <span className="text-quiet">none</span>;
  const colour = { wrong: 'text-apple', careful: 'text-honey', note: 'text-quiet' }[first.severity];
  return (
    <Link to={`/audiences/${audience.id}`} className={`${colour} hover:underline`}>
      {first.sentence}
      {sentences.length > 1 && ` And ${sentences.length - 1} more.`}
    </Link>
  );
}

function Head({
  title,
  right,
  sorted,
  onSort,
}: {
  title: string;
  right: boolean;
  sorted: 'up' | 'down' | undefined;
  onSort: (() => void) | undefined;
}) {
  const order = sorted === undefined ? 'none' : sorted === 'up' ? 'ascending' : 'descending';
  if (!onSort)
    return (
      <th scope="col" className={`${head} px-3 py-2`}>
        {title}
      </th>
    );
  return (
    <th scope="col" aria-sort={order} className={head}>
      <button
        type="button"
        className={`flex w-full items-center gap-1 whitespace-nowrap px-3 py-2 hover:bg-linen ${right ? 'justify-end' : ''}`}
        onClick={onSort}
      >
        {title}
        {sorted === 'up' && <ArrowUp size={13} aria-hidden />}
        {sorted === 'down' && <ArrowDown size={13} aria-hidden />}
      </button>
    </th>
  );
}

/** How many more or fewer people it has as drafted than as it is live. */
function SinceRelease({ audience: { count: now, liveCount } }: { audience: ListedAudience }) {
  if (now === null) return null;
  if (liveCount === null) return <div className="text-quiet">not live yet</div>;
  if (liveCount === now) return null;
  return (
    <div className="text-quiet">
      {now > liveCount ? `${count(now - liveCount)} more` : `${count(liveCount - now)} fewer`} than live
    </div>
  );
}
