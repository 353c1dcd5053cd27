import { max, scaleLinear } from 'd3';
import { Link } from 'react-router';
import { mostOthers, type Profile } from '../../../contract/attributes.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { count } from '../../data/count.ts';
import { peopleWith } from './people-with.ts';

const barWidth = 360;
const height = 150;

/** How the values are spread; every bar leads to the people it stands for. */
export function Distribution({ attribute, profile }: { attribute: Attribute; profile: Profile }) {
  const stretches =
    attribute.type === 'number' || attribute.type === 'date' || attribute.type === 'date-time';
  return stretches ? <Columns bars={profile.bars} /> : <Rows profile={profile} />;
}

function Rows({ profile: { bars, more } }: { profile: Profile }) {
  const width = scaleLinear([0, max(bars, (bar) => bar.count) || 1], [0, barWidth]);
  return (
    <>
      <ul>
        {bars.map((bar) => (
          <li key={bar.label}>
            <Link
              to={peopleWith(bar.condition)}
              className="group grid grid-cols-1 wide:grid-cols-[200px_1fr] items-center gap-3 rounded-md px-2 py-0.5 hover:bg-paper"
            >
              <span className="truncate">{bar.label}</span>
              <span className="flex items-center gap-2">
                <span
                  className="h-3.5 rounded-r-sm bg-leaf group-hover:brightness-110"
                  style={{ width: Math.max(bar.count > 0 ? 2 : 0, width(bar.count)) }}
                />
                <span className={bar.count === 0 ? 'text-quiet' : 'font-medium'}>
                  {bar.count === 0 ? 'nobody' : count(bar.count)}
                </span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {more > 0 && (
        <p className="px-2 text-quiet">
          and {more >= mostOthers ? `${count(mostOthers)} or more` : count(more)} other values
        </p>
      )}
    </>
  );
}

function Columns({ bars }: { bars: Profile['bars'] }) {
  const most = max(bars, (bar) => bar.count) || 1;
  const scale = scaleLinear([0, most], [0, height]);
  return (
    <div className="max-w-4xl overflow-x-auto">
      <ul className="flex items-end gap-1 border-b border-edge" style={{ height: height + 24 }}>
        {bars.map((bar) => (
          <li key={bar.label} className="min-w-3 flex-1">
            <Link
              to={peopleWith(bar.condition)}
              title={`${bar.label}: ${count(bar.count)}`}
              aria-label={`${bar.label}: ${count(bar.count)} people`}
              className="group flex flex-col items-center justify-end"
              style={{ height: height + 24 }}
            >
              <span className="text-[11px] text-quiet">
                {bar.count > 0 && bars.length <= 30 ? count(bar.count) : ''}
              </span>
              <span
                className="w-full rounded-t-sm bg-leaf group-hover:brightness-110"
                style={{ height: Math.max(bar.count > 0 ? 2 : 0, scale(bar.count)) }}
              />
            </Link>
          </li>
        ))}
      </ul>
      <div className="mt-1 flex gap-1 text-[11px] leading-4 text-quiet" aria-hidden>
        {bars.map((bar, index) => (
          <span key={bar.label} className="min-w-3 flex-1 overflow-visible whitespace-nowrap text-center">
            {index % Math.ceil(bars.length / 8) === 0 ? bar.label : ''}
          </span>
        ))}
      </div>
    </div>
  );
}
