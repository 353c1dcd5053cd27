import { Download, Undo2, X } from 'lucide-react';
import { Tabs } from 'radix-ui';
import { useEffect, useMemo, useRef } from 'react';
import { Link } from 'react-router';
import type { Import, ImportReport } from '../../../contract/imports.ts';
import { Catalogue } from '../../../core/attributes/catalogue.ts';
import type { ImportPlan } from '../../../core/exchange/plan.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';
import { FieldWords } from '../../parts/value/field-words.tsx';
import { LeftOut } from './left-out.tsx';
import { isRunning } from './status.ts';

type Step = 'run' | 'cancel' | 'undo' | 'again';

/** What the import would do or has done, and what can be done with it now. */
export function Outcome({
  data,
  catalogue,
  onTry,
  onPlan,
  act,
}: {
  data: Import;
  catalogue: Catalogue;
  onTry: () => void;
  onPlan: (plan: ImportPlan) => void;
  act: (step: Step) => void;
}) {
  const { status, report, problems, progress, plan, change } = data;
  // What is shown may be of attributes that only come with the import.
  const known = useMemo(() => {
    const made = plan?.columns.flatMap(({ to }) => (to.kind === 'new' ? [to.attribute] : [])) ?? [];
    return new Catalogue([...catalogue.attributes, ...made], catalogue.zone);
  }, [catalogue, plan]);
  const busy = isRunning(data);
  // A file that leaves nothing to settle is tried at once.
  const tried = useRef(false);
  useEffect(() => {
    if (change || status !== 'read' || problems.length > 0 || report || tried.current) return;
    tried.current = true;
    onTry();
  }, [change, status, problems, report, onTry]);
  const incoming = report ? report.added + report.changed : 0;
  return (
    <section aria-label="What happens" className="rounded-md border border-line bg-paper px-5 py-4">
      <div className="flex flex-wrap items-center gap-x-8 gap-y-2" role="status">
        <h2 className="text-[18px]">{titleOf(data)}</h2>
        {report && (
          <>
            {!change && <Figure number={report.added} label={status === 'imported' ? 'added' : 'new'} />}
            <Figure number={report.changed} label="changed" />
            <Figure number={report.unchanged} label="unchanged" />
            {!change && <Figure number={report.rejected} label="left out" wrong />}
            {report.cells > 0 && (
              <Figure
                number={report.cells}
                label={report.cells === 1 ? 'cell left out' : 'cells left out'}
                wrong
              />
            )}
          </>
        )}
        <span className="ml-auto flex items-center gap-3">
          {busy && <Progress share={progress ?? 0} />}
          {busy && (
            <Button icon={<X size={15} aria-hidden />} onClick={() => act('cancel')}>
              Stop
            </Button>
          )}
          {(status === 'read' || status === 'undone') && (
            <Button disabled={problems.length > 0} onClick={onTry}>
              Preview
            </Button>
          )}
          {status === 'checked' && (
            <Button look="primary" disabled={incoming === 0} onClick={() => act('run')}>
              {change ? 'Change' : 'Import'} {count(incoming)} {incoming === 1 ? 'person' : 'people'}
            </Button>
          )}
          {status === 'imported' && (
            <>
              <Button icon={<Undo2 size={15} aria-hidden />} onClick={() => act('undo')}>
                {change ? 'Undo changes' : 'Undo import'}
              </Button>
              {incoming > 0 && (
                <Link to={`/people?import=${data.id}`} className="underline">
                  See these people
                </Link>
              )}
            </>
          )}
        </span>
      </div>
      {problems.length > 0 && !busy && (
        <div className="mt-3">
          <Notice
            kind="careful"
            title={
              problems.length === 1
                ? 'One thing has to be settled first'
                : `${problems.length} things have to be settled first`
            }
          >
            <ul>
              {problems.map(({ path, message }) => (
                <li key={`${path} ${message}`}>
                  {headerOf(data, path)}
                  {message}
                </li>
              ))}
            </ul>
          </Notice>
        </div>
      )}
      {status === 'checked' && report && plan && (
        <LeftOut report={report} plan={plan} catalogue={known} onPlan={onPlan} />
      )}
      {report?.undone && (
        <p className="mt-2">
          {count(report.undone.removed)} removed again, {count(report.undone.restored)} as they were before
          {report.undone.kept > 0 &&
            `, ${count(report.undone.kept)} kept, since they were changed afterwards`}
          .
        </p>
      )}
      {report && !report.undone && (
        <Samples id={data.id} report={report} isChange={change !== null} catalogue={known} />
      )}
    </section>
  );
}

function titleOf({ status, report, problems, change }: Import): string {
  switch (status) {
    case 'checking':
      return change ? 'Counting…' : 'Preparing the preview…';
    case 'importing':
      return change ? 'Changing…' : 'Importing…';
    case 'imported':
      return change ? 'Changed' : 'Imported';
    case 'undoing':
      return 'Undoing…';
    case 'undone':
      return 'Undone';
    default:
      return report ? 'What would happen' : problems.length > 0 ? 'Not previewed yet' : 'Ready to preview';
  }
}

function headerOf({ plan }: Import, path: string): string {
  const index = Number(/^columns\.(\d+)/.exec(path)?.[1] ?? -1);
  const header = plan?.columns[index]?.header;
  return header === undefined ? '' : `${header}: `;
}

function Figure({ number, label, wrong = false }: { number: number; label: string; wrong?: boolean }) {
  return (
    <span className={wrong && number > 0 ? 'text-apple' : ''}>
      <strong className="text-[20px]">{count(number)}</strong> {label}
    </span>
  );
}

function Progress({ share }: { share: number }) {
  return (
    <progress aria-label="How much is done" className="h-2 w-40 accent-leaf" max={1} value={share}>
      {Math.round(share * 100)}%
    </progress>
  );
}

const tabs = [
  ['added', 'New'],
  ['changed', 'Changed'],
  ['unchanged', 'Unchanged'],
  ['rejected', 'Left out'],
  ['cells', 'Cells left out'],
] as const;

/** The first twenty of each kind. */
function Samples({
  id,
  report,
  isChange,
  catalogue,
}: {
  id: number;
  report: ImportReport;
  /** Whether people are changed who are there, so that there is no file, and nobody is new. */
  isChange: boolean;
  catalogue: Catalogue;
}) {
  const first = report.rejected > 0 ? 'rejected' : (tabs.find(([key]) => report[key] > 0)?.[0] ?? 'added');
  return (
    <Tabs.Root key={first} defaultValue={first} className="mt-3">
      <Tabs.List aria-label="The first twenty of each" className="flex gap-1 border-b border-line">
        {tabs
          .filter(
            ([key]) =>
              report[key] > 0 || (key !== 'cells' && key !== 'rejected' && !(isChange && key === 'added')),
          )
          .map(([key, label]) => (
            <Tabs.Trigger
              key={key}
              value={key}
              disabled={report[key] === 0}
              className="rounded-t-md px-3 py-1.5 text-quiet disabled:opacity-40 data-[state=active]:border-b-2 data-[state=active]:border-leaf data-[state=active]:font-semibold data-[state=active]:text-ink"
            >
              {label} {count(report[key])}
            </Tabs.Trigger>
          ))}
        {report.rejected + report.cells > 0 && (
          <a
            href={`/api/imports/${id}/left-out.csv`}
            download
            className="ml-auto inline-flex items-center gap-1.5 px-2 underline"
          >
            <Download size={15} aria-hidden /> What was left out, with the reason beside each
          </a>
        )}
      </Tabs.List>
      {tabs.map(([key]) => (
        <Tabs.Content key={key} value={key} tabIndex={0} className="max-h-56 overflow-y-auto">
          <table className="w-full">
            <tbody>
              {report.samples[key].map((one) => (
                <tr key={`${one.row} ${'column' in one ? one.column : ''}`}>
                  {!isChange && (
                    <td className="w-28 whitespace-nowrap border-b border-line/60 px-2 py-1 text-quiet">
                      row {count(one.row)}
                    </td>
                  )}
                  <td className="w-64 border-b border-line/60 px-2 py-1 font-medium">{one.email}</td>
                  <td className="border-b border-line/60 px-2 py-1">
                    {'reason' in one
                      ? `${one.column === null ? '' : `${one.column}: `}${one.reason}`
                      : 'fields' in one && <FieldWords fields={one.fields} catalogue={catalogue} />}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {report[key] > report.samples[key].length && (
            <p className="px-2 py-1 text-quiet">and {count(report[key] - report.samples[key].length)} more</p>
          )}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}
