import { max, scaleBand, scaleLinear } from 'd3';
import { useState } from 'react';
import { Link } from 'react-router';
import useSWR from 'swr';
import { type OverTime as Answer, overTimeSchema } from '../../../contract/audiences.ts';
import type { Condition } from '../../../core/conditions/condition.ts';
import { call, type RequestError } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useWholeCondition } from '../../data/whole-condition.ts';

const [width, height] = [330, 110];
const said = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' });
type Day = Answer['days'][number];

/** Who comes in and who leaves in the next thirty days through dates alone: a bar up and down for each day, and names. */
export function OverTime({ condition, audience }: { condition: Condition; audience: string | null }) {
  const whole = useWholeCondition(condition);
  const { data } = useSWR<Answer, RequestError>(
    whole && ['/audiences/over-time', whole, audience],
    () => call('POST', '/audiences/over-time', overTimeSchema, { condition: whole, audience }),
    { keepPreviousData: true, revalidateOnFocus: false },
  );
  const [chosen, setChosen] = useState<string>();
  const days = data?.days ?? [];
  const crossed = days.filter(({ entering, leaving }) => entering + leaving > 0);
  const [first, last] = [days[0], days.at(-1)];
  if (!first || !last) return null;
  const sum = (key: 'entering' | 'leaving') => days.reduce((total, day) => total + day[key], 0);
  const day = crossed.find(({ date }) => date === chosen) ?? crossed[0];
  return (
    <section aria-label="The next 30 days" className="mt-5">
      <h2 className="mb-1 text-[16px]">The next 30 days</h2>
      {crossed.length === 0 ? (
        <p className="text-quiet">Nobody joins or leaves just because time passes.</p>
      ) : (
        <>
          <p>
            <span className="text-leaf">{count(sum('entering'))} come in</span>,{' '}
            <span className="text-apple">{count(sum('leaving'))} leave</span>: {count(first.count)} today,{' '}
            {count(last.count)} on {said.format(Date.parse(last.date))}
          </p>
          <Chart days={days} chosen={day?.date} onChoose={setChosen} />
          {day && <Names day={day} />}
        </>
      )}
    </section>
  );
}

function Chart({
  days,
  chosen,
  onChoose,
}: {
  days: readonly Day[];
  chosen: string | undefined;
  onChoose: (date: string) => void;
}) {
  const most = max(days, ({ entering, leaving }) => Math.max(entering, leaving)) || 1;
  const x = scaleBand(
    days.map(({ date }) => date),
    [0, width],
  ).padding(0.2);
  const y = scaleLinear([-most, most], [height, 0]);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a chart of bars that can be chosen is a group of buttons
    <svg viewBox={`0 0 ${width} ${height + 16}`} className="mt-1 w-full" role="group" aria-label="By day">
      <line x1={0} x2={width} y1={y(0)} y2={y(0)} stroke="var(--edge)" />
      {days.map((day) => {
        const { date, entering, leaving } = day;
        if (entering + leaving === 0) return null;
        const words = `${said.format(Date.parse(date))}: ${count(entering)} come in, ${count(leaving)} leave`;
        return (
          // biome-ignore lint/a11y/useSemanticElements: a bar of a chart can't be a button element
          <g
            key={date}
            role="button"
            tabIndex={0}
            aria-label={words}
            aria-pressed={date === chosen}
            className="cursor-pointer"
            onClick={() => onChoose(date)}
            onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && onChoose(date)}
          >
            <title>{words}</title>
            <rect
              x={x(date)}
              width={x.bandwidth()}
              y={0}
              height={height}
              fill={date === chosen ? 'var(--line)' : 'transparent'}
            />
            <rect
              x={x(date)}
              width={x.bandwidth()}
              y={y(entering)}
              height={y(0) - y(entering)}
              fill="var(--leaf)"
            />
            <rect
              x={x(date)}
              width={x.bandwidth()}
              y={y(0)}
              height={y(-leaving) - y(0)}
              fill="var(--apple)"
            />
          </g>
        );
      })}
      {[days[0], days[Math.floor(days.length / 2)], days.at(-1)].map(
        (day, index) =>
          day && (
            <text
              key={day.date}
              x={[0, width / 2, width][index]}
              y={height + 13}
              textAnchor={(['start', 'middle', 'end'] as const)[index]}
              className="fill-quiet text-[11px]"
            >
              {index === 0 ? 'today' : said.format(Date.parse(day.date))}
            </text>
          ),
      )}
    </svg>
  );
}

function Names({ day }: { day: Day }) {
  return (
    <div className="mt-1 text-[13px] leading-5">
      <strong>{said.format(Date.parse(day.date))}</strong>
      <Row words="come in" people={day.comers} all={day.entering} />
      <Row words="leave" people={day.leavers} all={day.leaving} />
    </div>
  );
}

function Row({ words, people, all }: { words: string; people: Day['comers']; all: number }) {
  if (all === 0) return null;
  return (
    <p>
      {people.map(({ id, name }, index) => (
        <span key={id}>
          {index > 0 && ', '}
          <Link to={`/people/${id}`} className="underline">
            {name}
          </Link>
        </span>
      ))}
      {all > people.length && ` and ${count(all - people.length)} more`}{' '}
      {all === 1 ? words.replace('come', 'comes').replace('leave', 'leaves') : words}
    </p>
  );
}
