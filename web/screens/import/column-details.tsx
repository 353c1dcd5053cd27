import type { FileSurvey } from '../../../contract/imports.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { newAttribute } from '../../../core/exchange/guess.ts';
import type { ColumnPlan, Target } from '../../../core/exchange/plan.ts';
import { unknownChoices } from '../../../core/exchange/reading.ts';
import { needsOrder, writtenDate, writtenNumber } from '../../../core/exchange/written.ts';
import { count } from '../../data/count.ts';
import { Select } from '../../parts/select.tsx';

export type Survey = FileSurvey['columns'][number];

export const box = 'h-8 rounded-md border border-edge/60 bg-paper px-2';

/** What else has to be said about a column: its name, how its values are written, what is not among the choices. */
export function More({
  column,
  survey,
  catalogue,
  problem,
  onChange,
}: {
  column: ColumnPlan;
  survey: Survey;
  catalogue: Catalogue;
  problem: string | undefined;
  onChange: (column: ColumnPlan) => void;
}) {
  const { to } = column;
  const attribute =
    to.kind === 'new' ? to.attribute : to.kind === 'attribute' ? catalogue.get(to.attribute) : undefined;
  const dated = attribute?.type === 'date' && survey.dates !== null;
  const signed = attribute?.type === 'number' && survey.decimals !== null;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
      {to.kind === 'new' && (
        <label className="flex items-center gap-2 text-quiet">
          called
          <input
            aria-label={`Name of the new attribute for “${column.header}”`}
            className={`${box} w-40 text-ink`}
            defaultValue={to.attribute.label}
            maxLength={120}
            onBlur={(event) => {
              const label = event.target.value.trim();
              if (label !== '' && label !== to.attribute.label)
                onChange({ ...column, to: { ...to, attribute: { ...to.attribute, label } } });
            }}
          />
        </label>
      )}
      {attribute?.type === 'set' && (
        <div className="flex items-center gap-2 text-quiet">
          split at
          <Select<string>
            aria-label={`Sign between the values in “${column.header}”`}
            className="text-ink"
            value={column.splitAt ?? ''}
            onChange={(sign) => onChange(splitColumn(column, sign, survey))}
            options={[
              { value: '', label: '; or |' },
              { value: ',', label: 'comma' },
              { value: '/', label: 'slash' },
              { value: ' ', label: 'space' },
            ]}
          />
        </div>
      )}
      {dated && <DateOrder column={column} survey={survey} onChange={onChange} />}
      {signed && <DecimalSign column={column} survey={survey} onChange={onChange} />}
      {to.kind === 'attribute' && attribute && (
        <Unknown column={column} to={to} attribute={attribute} survey={survey} onChange={onChange} />
      )}
      {problem !== undefined && !dated && !signed && <span className="text-apple">{problem}</span>}
    </div>
  );
}

function splitColumn(column: ColumnPlan, sign: string, survey: Survey): ColumnPlan {
  const { splitAt: _, ...rest } = column;
  const splitAt = sign === '' ? undefined : sign;
  const to: Target =
    rest.to.kind === 'new' && rest.to.attribute.type === 'set'
      ? {
          kind: 'new',
          attribute: {
            ...newAttribute(survey, 'set', rest.to.attribute.id, splitAt),
            label: rest.to.attribute.label,
          },
        }
      : rest.to;
  return { ...rest, to, ...(splitAt !== undefined && { splitAt }) };
}

const said = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', timeZone: 'UTC' });

function DateOrder({ column, survey, onChange }: QuestionProps) {
  const example = survey.examples.find(needsOrder) ?? survey.distinct?.find(needsOrder) ?? '03/04/2026';
  const as = (order: 'day-first' | 'month-first') => {
    const date = writtenDate(example, order);
    return date === undefined ? '' : ` – “${example}” is ${said.format(Date.parse(date))}`;
  };
  return (
    <Question
      label={`Order of dates in “${column.header}”`}
      value={column.dates}
      open="day or month first?"
      options={[
        ['day-first', `day first${as('day-first')}`],
        ['month-first', `month first${as('month-first')}`],
      ]}
      onChange={(dates) => onChange({ ...column, dates })}
    />
  );
}

function DecimalSign({ column, survey, onChange }: QuestionProps) {
  const example = survey.examples.find((text) => /[.,]/.test(text)) ?? '1,234';
  const as = (sign: 'point' | 'comma') => {
    const number = writtenNumber(example, sign);
    return number === undefined ? '' : ` – “${example}” is ${number}`;
  };
  return (
    <Question
      label={`Decimals in “${column.header}”`}
      value={column.decimals}
      open={survey.decimals === 'either' ? 'point or comma?' : 'as it stands'}
      options={[
        ['point', `decimal point${as('point')}`],
        ['comma', `decimal comma${as('comma')}`],
      ]}
      onChange={(decimals) => onChange({ ...column, decimals })}
    />
  );
}

interface QuestionProps {
  column: ColumnPlan;
  survey: Survey;
  onChange: (column: ColumnPlan) => void;
}

function Question<Value extends string>({
  label,
  value,
  open,
  options,
  onChange,
}: {
  label: string;
  value: Value | undefined;
  open: string;
  options: readonly (readonly [Value, string])[];
  onChange: (value: Value) => void;
}) {
  return (
    <Select<Value | ''>
      aria-label={label}
      className={value === undefined ? 'border-honey-edge font-semibold' : ''}
      value={value ?? ''}
      onChange={(chosen) => chosen !== '' && onChange(chosen)}
      placeholder={open}
      options={options.map(([option, words]) => ({ value: option, label: words }))}
    />
  );
}

/** Values of the file that are none of the attribute's choices. */
function Unknown({
  column,
  to,
  attribute,
  survey,
  onChange,
}: QuestionProps & { to: Extract<Target, { kind: 'attribute' }>; attribute: Attribute }) {
  if (attribute.type !== 'choice' && attribute.type !== 'set') return null;
  const unknown = unknownChoices(attribute, survey, column.splitAt);
  const [first] = unknown;
  if (first === undefined) return null;
  const others = unknown.length - 1;
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="accent-leaf"
        checked={to.addChoices}
        onChange={(event) => onChange({ ...column, to: { ...to, addChoices: event.target.checked } })}
      />
      make {others === 0 ? `“${first}” a choice` : `“${first}” and ${count(others)} more choices`} of it
    </label>
  );
}
