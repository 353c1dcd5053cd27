import type { FileSurvey } from '../../../contract/imports.ts';
import type { AttributeType } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { newAttribute } from '../../../core/exchange/guess.ts';
import type { ColumnPlan, ImportPlan, Target } from '../../../core/exchange/plan.ts';
import { fresh, slug } from '../../../core/exchange/slug.ts';
import { count } from '../../data/count.ts';
import { typeWords } from '../../parts/condition/type-words.ts';
import { Select } from '../../parts/select.tsx';
import { More, type Survey } from './column-details.tsx';

const newTypes: AttributeType[] = [
  'text',
  'choice',
  'set',
  'number',
  'date',
  'date-time',
  'yes-no',
  'country',
];
const head = 'border-b border-line px-3 py-2 text-left font-medium';
const cell = 'border-b border-line/60 px-3 py-1.5 align-top';

/** What each column of the file becomes. */
export function Columns({
  survey,
  plan,
  problems,
  catalogue,
  onChange,
}: {
  survey: FileSurvey;
  plan: ImportPlan;
  problems: readonly { path: string; message: string }[];
  catalogue: Catalogue;
  onChange: (plan: ImportPlan) => void;
}) {
  const change = (index: number, column: ColumnPlan) =>
    onChange({ ...plan, columns: plan.columns.map((other, at) => (at === index ? column : other)) });
  return (
    <section aria-label="Columns">
      <h2 className="text-[18px]">Column mapping</h2>
      <table className="mt-2 w-full rounded-md border border-line bg-paper">
        <thead>
          <tr>
            {['Column', 'For example', 'Blank', 'Becomes', ''].map((title) => (
              <th key={title} scope="col" className={head}>
                {title || <span className="sr-only">More about it</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {plan.columns.map((column, index) => {
            const surveyed = survey.columns[index];
            if (!surveyed) return null;
            const problem = problems.find(({ path }) => path === `columns.${index}`)?.message;
            return (
              <tr key={column.header} className={problem === undefined ? '' : 'bg-honey-wash'}>
                <td className={`${cell} max-w-52 truncate py-2.5 font-medium`}>{column.header}</td>
                <td className={`${cell} max-w-64 truncate py-2.5 text-quiet`}>
                  {surveyed.examples.join(', ')}
                </td>
                <td className={`${cell} py-2.5 text-quiet`}>
                  {surveyed.blank === 0 ? 'none' : count(surveyed.blank)}
                </td>
                <td className={cell}>
                  <TargetSelect
                    column={column}
                    survey={surveyed}
                    catalogue={catalogue}
                    plan={plan}
                    onChange={(to) => change(index, { header: column.header, ...kept(column, to), to })}
                  />
                </td>
                <td className={cell}>
                  <More
                    column={column}
                    survey={surveyed}
                    catalogue={catalogue}
                    problem={problem}
                    onChange={(next) => change(index, next)}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** How values are written stays known when a column becomes something else. */
function kept({ dates, decimals }: ColumnPlan, to: Target) {
  return to.kind === 'attribute' || to.kind === 'new'
    ? { ...(dates && { dates }), ...(decimals && { decimals }) }
    : {};
}

function TargetSelect({
  column: { header, to },
  survey,
  catalogue,
  plan,
  onChange,
}: {
  column: ColumnPlan;
  survey: Survey;
  catalogue: Catalogue;
  plan: ImportPlan;
  onChange: (to: Target) => void;
}) {
  const attributes = catalogue.attributes.filter(({ source, id }) => source === 'contact' && id !== 'email');
  const value =
    to.kind === 'attribute'
      ? `attribute ${to.attribute}`
      : to.kind === 'new'
        ? `new ${to.attribute.type}`
        : to.kind;
  const choose = (chosen: string) => {
    const [kind, what = ''] = chosen.split(' ');
    if (kind === 'attribute') onChange({ kind, attribute: what, addChoices: false });
    else if (kind === 'new') {
      const taken = new Set([
        ...catalogue.attributes.map(({ id }) => id),
        ...plan.columns.flatMap((other) =>
          other.to.kind === 'new' && other.header !== header ? [other.to.attribute.id] : [],
        ),
      ]);
      const type = newTypes.find((one) => one === what) ?? 'text';
      onChange({ kind, attribute: newAttribute(survey, type, fresh(slug(header), taken)) });
    } else if (kind === 'email' || kind === 'external-id' || kind === 'skip') onChange({ kind });
  };
  return (
    <Select
      aria-label={`What “${header}” becomes`}
      className={`w-56 ${to.kind === 'skip' ? 'text-quiet' : ''}`}
      value={value}
      onChange={choose}
      options={[
        { value: 'skip', label: 'left out' },
        { value: 'email', label: 'email address', group: 'Who it is' },
        { value: 'external-id', label: 'external ID', group: 'Who it is' },
        ...attributes.map(({ id, label }) => ({ value: `attribute ${id}`, label, group: 'An attribute' })),
        ...newTypes.map((type) => ({
          value: `new ${type}`,
          label: `new: ${typeWords[type]}`,
          group: 'A new attribute',
        })),
      ]}
    />
  );
}
