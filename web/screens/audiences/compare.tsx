import { scaleLinear } from 'd3';
import { ChevronLeft } from 'lucide-react';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import useSWR from 'swr';
import { type Comparison, comparisonSchema, type ListedAudience } from '../../../contract/audiences.ts';
import type { Relation } from '../../../core/analysis/relation.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { notProved, useRelation } from '../../data/analysis.ts';
import { call } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useSayPeople } from '../../data/counts.ts';
import { useAudiences } from '../../data/data.ts';
import { useLooking } from '../../data/looking.tsx';
import { useTabTitle } from '../../data/tab-title.ts';
import { Empty, Notice } from '../../parts/notice.tsx';

const most = 8;
const rowHeight = 34;
const barWidth = 420;

/** How two to eight audiences share people: each combination that occurs, as a matrix with bars. */
export function Component() {
  const [parameters, setParameters] = useSearchParams();
  const { data: audiences = [] } = useAudiences();
  const sayPeople = useSayPeople();
  const address = parameters.get('with') ?? '';
  useTabTitle('Compare audiences');
  /** What was just ticked, until the address has followed: a tick shows at once. */
  const [ticked, setTicked] = useState<{ at: string; wanted: readonly string[] }>();
  if (ticked && ticked.at !== address) setTicked(undefined);
  const wanted = ticked?.at === address ? ticked.wanted : address.split(',').filter((id) => id !== '');
  const chosen = wanted
    .flatMap((id) => audiences.find((audience) => audience.id === id) ?? [])
    .slice(0, most);
  const ids = chosen.map(({ id }) => id);
  const { data, error } = useSWR(
    ids.length >= 2 ? ['/audiences/compare', ids] : null,
    () => call('POST', '/audiences/compare', comparisonSchema, { audiences: ids }),
    { keepPreviousData: true },
  );
  const choose = (next: readonly string[]) => {
    setTicked({ at: address, wanted: next });
    setParameters(next.length > 0 ? { with: next.join(',') } : {});
  };
  return (
    <div className="grid h-full grid-cols-1 wide:grid-cols-[260px_1fr]">
      <aside aria-label="Which audiences" className="overflow-y-auto border-r border-line px-5 py-5">
        <Link to="/audiences" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
          <ChevronLeft size={15} aria-hidden /> All audiences
        </Link>
        <h2 className="mb-2 mt-3 text-[16px]">Compare</h2>
        <ul className="flex flex-col gap-1">
          {audiences.map((audience) => (
            <li key={audience.id}>
              <label className="flex items-start gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="mt-1 accent-leaf"
                  checked={ids.includes(audience.id)}
                  disabled={!ids.includes(audience.id) && ids.length >= most}
                  onChange={({ target }) =>
                    choose(target.checked ? [...ids, audience.id] : ids.filter((id) => id !== audience.id))
                  }
                />
                <span>
                  {audience.name} <span className="text-quiet">{sayPeople(audience)}</span>
                </span>
              </label>
            </li>
          ))}
        </ul>
      </aside>
      <div className="min-w-0 overflow-auto px-7 py-5">
        <h1 className="text-[26px] leading-8">Overlap</h1>
        {error && <Notice kind="wrong" title={error.message} />}
        {chosen.length < 2 ? (
          <div className="mt-6">
            <Empty title="Choose two to eight audiences at the left">
              Each combination of them that occurs is shown with how many contacts it has.
            </Empty>
          </div>
        ) : (
          data &&
          data.sizes.length === chosen.length && (
            <>
              {chosen.length === 2 && <RelationLine pair={chosen} comparison={data} />}
              <Matrix chosen={chosen} comparison={data} />
            </>
          )
        )}
      </div>
    </div>
  );
}

const said: Record<Relation, (one: string, two: string) => string> = {
  same: (one, two) => `“${one}” and “${two}” always contain the same people.`,
  inside: (one, two) => `Everyone in “${one}” is always in “${two}” too.`,
  around: (one, two) => `Everyone in “${two}” is always in “${one}” too.`,
  apart: (one, two) => `Nobody can ever be in both “${one}” and “${two}”.`,
  overlapping: (one, two) => `“${one}” and “${two}” can share people, and each can have people of its own.`,
};

/** What two audiences are to each other: by proof, and where today’s contacts show more, that too. */
function RelationLine({ pair, comparison }: { pair: readonly ListedAudience[]; comparison: Comparison }) {
  const { since } = useLooking();
  const [one, two] = pair;
  const relation = useRelation(one && two ? [one.id, two.id] : undefined, since);
  if (!one || !two || relation === undefined) return <p className="mt-1 h-6" />;
  const shares = (left: boolean, right: boolean) =>
    comparison.kinds.some(({ isIn }) => isIn[0] === left && isIn[1] === right);
  const today =
    relation === 'overlapping' || relation === null
      ? !shares(true, true)
        ? ' Today they share nobody.'
        : !shares(true, false)
          ? ` Today everybody in “${one.name}” is in “${two.name}”.`
          : !shares(false, true)
            ? ` Today everybody in “${two.name}” is in “${one.name}”.`
            : ''
      : '';
  return (
    <p className="mt-1" role="status">
      {relation === null ? `${notProved}: what they can share.` : said[relation](one.name, two.name)}
      {today}
    </p>
  );
}

function Matrix({ chosen, comparison }: { chosen: readonly ListedAudience[]; comparison: Comparison }) {
  const { kinds, total } = comparison;
  const sayPeople = useSayPeople();
  const largest = Math.max(1, ...kinds.map((kind) => kind.count));
  const width = scaleLinear([0, largest], [0, barWidth]);
  return (
    <table className="mt-4 border-separate border-spacing-0" aria-label="Combinations by size">
      <thead>
        <tr>
          {chosen.map((audience, index) => (
            <th
              key={audience.id}
              scope="col"
              className="w-28 max-w-28 px-1 pb-2 text-left align-bottom font-medium leading-5"
            >
              <span className="line-clamp-3">{audience.name}</span>
              <span className="block font-normal text-quiet">
                {sayPeople({ ...audience, count: comparison.sizes[index] ?? 0 })}
              </span>
            </th>
          ))}
          <th scope="col" className="px-3 pb-2 text-left align-bottom font-medium">
            Contacts <span className="font-normal text-quiet">of {count(total)}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {kinds.map(({ isIn, count: people }) => {
          const who = chosen.map((audience, index) => ({ audience, is: isIn[index] === true }));
          const inside = who.filter(({ is }) => is).map(({ audience }) => audience.name);
          const label =
            inside.length === 0
              ? 'in none of them'
              : `only in ${new Intl.ListFormat('en-GB').format(inside)}`;
          return (
            <tr key={isIn.join()} className="hover:bg-paper">
              {who.map(({ audience, is }) => (
                <td key={audience.id} className="border-t border-line/60 px-1">
                  <Dot is={is} />
                </td>
              ))}
              <td className="border-t border-line/60 px-3">
                <Link
                  to={`/people?where=${encodeURIComponent(JSON.stringify(conditionOf(who)))}`}
                  className="flex items-center gap-2 hover:underline"
                  title={`Show the ${count(people)} contacts ${label}`}
                >
                  <svg width={barWidth} height={rowHeight} aria-hidden className="shrink-0">
                    <rect
                      y={rowHeight / 2 - 7}
                      height={14}
                      rx={4}
                      width={Math.max(2, width(people))}
                      className="fill-leaf"
                    />
                  </svg>
                  <strong>{count(people)}</strong>
                  <span className="sr-only">{label}</span>
                </Link>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Whether a combination is in an audience: a full or an open dot. */
function Dot({ is }: { is: boolean }) {
  return (
    <svg width={28} height={rowHeight} role="img" aria-label={is ? 'in it' : 'not in it'}>
      <circle
        cx={14}
        cy={rowHeight / 2}
        r={7}
        strokeWidth={2}
        className={is ? 'fill-leaf stroke-leaf' : 'fill-linen stroke-edge/60'}
      />
    </svg>
  );
}

function conditionOf(who: readonly { audience: { id: string }; is: boolean }[]): Condition {
  return {
    kind: 'all',
    of: who.map(({ audience, is }): Condition => {
      const part: Condition = { kind: 'audience', audience: audience.id };
      return is ? part : { kind: 'not', of: part };
    }),
  };
}
