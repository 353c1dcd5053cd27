import { max, scaleLinear } from 'd3';
import { Link } from 'react-router';
import { mostOthers, type Profile } from '../../../contract/attributes.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import { count } from '../../data/count.ts';
import { peopleWith } from './people-with.ts';

const barWidth = 360;
const height = 150;
/** Those without a value are hatched: they are no value among the others. */
const hatched =
  'bg-[repeating-linear-gradient(135deg,var(--edge)_0_2px,transparent_2px_6px)] border border-edge/60';

type Bar = Profile['bars'][number] & { readonly isMissing: boolean };

/** How the values are spread, and how many have none; every bar leads to the people it stands for. */
export function Distribution({ attribute, profile }: { attribute: Attribute; profile: Profile }) {
  const stretches =
    attribute.type === 'number' || attribute.type === 'date' || attribute.type === 'date-time';
  const bars: Bar[] = profile.bars.map((bar) => ({ ...bar, isMissing: false }));
  const missing: Bar = {
    label: 'no value',
    count: profile.lacking,
    condition: { kind: 'test', attribute: attribute.id, op: 'has-no-value', values: [] },
    isMissing: true,
  };
  return stretches ? (
    <Columns bars={bars} missing={missing} />
  ) : (
    <Rows bars={bars} missing={missing} more={profile.more} />
  );
}

function Rows({ bars, missing, more }: { bars: readonly Bar[]; missing: Bar; more: number }) {
  const all = [...bars, missing];
  const width = scaleLinear([0, max(all, (bar) => bar.count) || 1], [0, barWidth]);
  return (
    <>
      <ul>
        {all.map((bar) => (
          <li key={`${bar.isMissing} ${bar.label}`} className={bar.isMissing ? 'mt-1.5' : ''}>
            <Link
              to={peopleWith(bar.condition)}
              className="group grid grid-cols-1 items-center gap-3 rounded-md px-2 py-0.5 hover:bg-paper wide:grid-cols-[200px_1fr]"
            >
              <span className={`truncate first-letter:uppercase ${bar.isMissing ? 'text-quiet' : ''}`}>
                {bar.label}
              </span>
              <span className="flex items-center gap-2">
                <span
                  className={`h-3.5 rounded-r-sm ${bar.isMissing ? hatched : 'bg-leaf group-hover:brightness-110'}`}
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

function Columns({ bars, missing }: { bars: readonly Bar[]; missing: Bar }) {
  const all = [...bars, missing];
  const scale = scaleLinear([0, max(all, (bar) => bar.count) || 1], [0, height]);
  return (
    <div className="max-w-4xl overflow-x-auto">
      <ul className="flex items-end gap-1 border-b border-edge" style={{ height: height + 24 }}>
        {all.map((bar) => (
          <li
            key={`${bar.isMissing} ${bar.label}`}
            className={`min-w-3 ${bar.isMissing ? 'ml-4 w-14 shrink-0' : 'flex-1'}`}
          >
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
                className={`w-full rounded-t-sm ${bar.isMissing ? hatched : 'bg-leaf group-hover:brightness-110'}`}
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
        <span className="ml-4 w-14 shrink-0 whitespace-nowrap text-center">{missing.label}</span>
      </div>
    </div>
  );
}
