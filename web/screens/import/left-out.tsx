import type { ImportReport } from '../../../contract/imports.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { ImportPlan } from '../../../core/exchange/plan.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';

const rows = (number: number) => `${count(number)} ${number === 1 ? 'row' : 'rows'}`;

/** Why rows are left out because of single cells, and what can be done about it. */
export function LeftOut({
  report: { causes, cells },
  plan,
  catalogue,
  onPlan,
}: {
  report: ImportReport;
  plan: ImportPlan;
  catalogue: Catalogue;
  onPlan: (plan: ImportPlan) => void;
}) {
  const who = new Set(plan.columns.flatMap(({ to, header }) => (isWho(to.kind) ? [header] : [])));
  const mendable = causes.filter(({ column }) => !who.has(column));
  const total = mendable.reduce((sum, one) => sum + one.rows, 0);
  const toChoices = mendable.flatMap(({ column }) => {
    const at = plan.columns.findIndex(({ header }) => header === column);
    const to = plan.columns[at]?.to;
    const attribute = to?.kind === 'attribute' && !to.addChoices ? catalogue.get(to.attribute) : undefined;
    return attribute && (attribute.type === 'choice' || attribute.type === 'set') ? [{ at, column }] : [];
  });
  if (plan.unreadable === 'cell')
    return cells === 0 ? null : (
      <div className="mt-3 flex items-center gap-4">
        <span>Cells that can’t be read are skipped. Values that are already stored stay.</span>
        <Button onClick={() => onPlan({ ...plan, unreadable: 'row' })}>Skip the whole rows instead</Button>
      </div>
    );
  if (total === 0) return null;
  return (
    <div className="mt-3">
      <Notice
        kind="careful"
        title={`${rows(total)} left out because of one cell: ${mendable.map(({ column, rows: number }) => `“${column}” in ${count(number)}`).join(', ')}`}
      >
        <div className="mt-2 flex flex-wrap gap-2">
          <Button onClick={() => onPlan({ ...plan, unreadable: 'cell' })}>
            Import them without those cells
          </Button>
          {toChoices.map(({ at, column }) => (
            <Button
              key={column}
              onClick={() =>
                onPlan({
                  ...plan,
                  columns: plan.columns.map((one, index) =>
                    index === at && one.to.kind === 'attribute'
                      ? { ...one, to: { ...one.to, addChoices: true } }
                      : one,
                  ),
                })
              }
            >
              Add the new values of “{column}” as choices
            </Button>
          ))}
        </div>
      </Notice>
    </div>
  );
}

function isWho(kind: ImportPlan['columns'][number]['to']['kind']): boolean {
  return kind === 'email' || kind === 'external-id';
}
