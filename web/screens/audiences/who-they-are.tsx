import type { ReactNode } from 'react';
import useSWR from 'swr';
import { type Count, countSchema } from '../../../contract/audiences.ts';
import { attributesIn, type Condition } from '../../../core/conditions/condition.ts';
import { call, type RequestError } from '../../data/api.ts';
import { count, countOf, worded } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { useWholeCondition } from '../../data/whole-condition.ts';
import { Notice } from '../../parts/notice.tsx';
import { IsIn } from './is-in.tsx';
import { Members } from './members.tsx';

/** Who is in a condition as it stands, asked again at each change. */
export function useCount(condition: Condition, audience: string | null) {
  return useSWR<Count, RequestError>(
    ['/audiences/count', condition, audience],
    () => call('POST', '/audiences/count', countSchema, { condition, audience }),
    { keepPreviousData: true, revalidateOnFocus: false },
  );
}

/** Beside a condition, always: how many, who for example, and who can't match for lack of a value. */
export function WhoTheyAre({
  counted,
  condition,
  children,
}: {
  counted: ReturnType<typeof useCount>;
  condition: Condition;
  children?: ReactNode;
}) {
  const catalogue = useCatalogue();
  const whole = useWholeCondition(condition);
  const { data, error } = counted;
  if (error)
    return (
      <aside className="border-l border-line p-5">
        <Notice kind="wrong" title={error.message} />
      </aside>
    );
  if (!data || !catalogue) return <aside className="border-l border-line p-5" />;
  const label = (id: string) => catalogue.get(id)?.label ?? id;
  const tested = [...attributesIn(condition)].flatMap((id) => {
    const attribute = catalogue.get(id);
    return attribute?.source === 'contact' ? [attribute] : [];
  });
  const elsewhere = [...attributesIn(condition)].flatMap((id) => {
    const attribute = catalogue.get(id);
    return attribute?.source === 'visit' || attribute?.source === 'item' ? [attribute.label] : [];
  });
  return (
    <aside aria-label="Who they are" className="overflow-y-auto border-l border-line px-5 py-5">
      {data.problems.length > 0 ? (
        <Notice kind="wrong" title="Nobody can be counted yet">
          {data.problems[0]?.message}
        </Notice>
      ) : (
        <>
          <p role="status" aria-live="polite">
            <span className="font-display text-[44px] font-bold leading-none" data-testid="count">
              {count(data.count)}
            </span>{' '}
            <span className="text-[17px] text-quiet">of {count(data.total)} contacts</span>
          </p>
          <div className="mt-2 h-1.5 overflow-hidden rounded-full bg-line" aria-hidden>
            <div
              className="h-full bg-leaf"
              style={{ width: `${(100 * data.count) / Math.max(1, data.total)}%` }}
            />
          </div>
        </>
      )}
      {elsewhere.length > 0 && (
        <p className="mt-3 text-quiet">
          Counted as of now and without a visit: {new Intl.ListFormat('en-GB').format(elsewhere)}{' '}
          {elsewhere.length === 1 ? 'is' : 'are'} only known when somebody comes.
        </p>
      )}
      {data.leftOut > 0 && (
        <p className="mt-3">
          <strong>{count(data.leftOut)}</strong> more{' '}
          {worded(data.leftOut, 'is left out only because it has', 'are left out only because they have')} no
          value.
        </p>
      )}
      {data.lacking.length > 0 && (
        <ul className="mt-3 text-quiet">
          {data.lacking.map(({ attribute, count: people }) => (
            <li key={attribute}>
              {countOf(people, 'has', 'have')} no {label(attribute)}
            </li>
          ))}
        </ul>
      )}
      <IsIn condition={condition} catalogue={catalogue} />
      {data.problems.length === 0 && whole && <Members condition={whole} tested={tested} />}
      {children}
      <p className="mt-5 text-[12px] leading-4 text-quiet">
        People with an account on the site are counted as signed in, others as recognised.
      </p>
    </aside>
  );
}
