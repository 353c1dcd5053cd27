import { Grid2x2, Plus } from 'lucide-react';
import { Link } from 'react-router';
import { say } from '../../../core/conditions/words.ts';
import { audienceNames, useAudiences, useCatalogue } from '../../app/data.ts';
import { saidInstant } from '../../app/moment.ts';
import { Empty } from '../../parts/notice.tsx';
import { count } from '../../parts/person.tsx';

const head = 'sticky top-0 border-b border-line bg-paper px-3 py-2 text-left font-medium';
const cell = 'border-b border-line/60 px-3 py-2 align-top';

export function Component() {
  const { data: audiences } = useAudiences();
  const catalogue = useCatalogue();
  const nameOf = audienceNames(audiences);
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
      <section
        aria-label="All audiences"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        className="mb-4 mt-3 min-h-0 flex-1 overflow-auto rounded-md border border-line bg-paper"
      >
        {audiences?.length === 0 ? (
          <div className="p-8">
            <Empty title="No audience yet">
              <Link to="/audiences/new" className="underline">
                Say who the first one is
              </Link>
            </Empty>
          </div>
        ) : (
          <table className="w-full border-separate border-spacing-0">
            <thead>
              <tr>
                {['Audience', 'Who', 'People', 'Used in', 'Last change'].map((title) => (
                  <th key={title} scope="col" className={`${head} ${title === 'People' ? 'text-right' : ''}`}>
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {audiences?.map((audience) => (
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
                  <td className={`${cell} text-right font-semibold`}>{count(audience.count)}</td>
                  <td className={cell}>
                    {audience.uses.length === 0 ? (
                      <span className="text-quiet">nowhere yet</span>
                    ) : (
                      audience.uses.map((use) => use.name).join(', ')
                    )}
                  </td>
                  <td className={`${cell} whitespace-nowrap text-quiet`}>
                    {saidInstant(audience.updatedAt)}
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
