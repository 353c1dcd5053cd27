import { ChevronLeft, FileUp } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { type ImportReport, importReportSchema, largestImport } from '../../../contract/people.ts';
import { call, messageOf, refresh } from '../../app/api.ts';
import { Button } from '../../parts/button.tsx';
import { typeWords } from '../../parts/condition/attribute-picker.tsx';
import { Notice } from '../../parts/notice.tsx';
import { count } from '../../parts/person.tsx';

interface Chosen {
  name: string;
  csv: string;
  report: ImportReport;
  done: boolean;
}

export function Component() {
  const [chosen, setChosen] = useState<Chosen>();
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const run = async (name: string, csv: string, dryRun: boolean) => {
    setBusy(true);
    setProblem(undefined);
    try {
      const report = await call('POST', '/contacts/import', importReportSchema, { csv, dryRun });
      setChosen({ name, csv, report, done: !dryRun });
      if (!dryRun) refresh('/contacts', '/attributes', '/audiences', '/releases');
    } catch (error) {
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setChosen(undefined);
    if (file.size > largestImport)
      return setProblem(
        `The file is larger than ${largestImport / 1024 / 1024} MB. Split it and import the parts.`,
      );
    await run(file.name, await file.text(), true);
  };
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All people
      </Link>
      <h1 className="mt-1 text-[26px] leading-8">Import people</h1>
      <p className="text-quiet">
        A CSV file whose first row names the columns. One column is called “email”; people who are known
        already are matched by it, and a blank cell keeps what is stored.
      </p>
      <label className="mt-4 inline-flex cursor-pointer items-center gap-2 rounded-md border border-dashed border-edge bg-paper px-5 py-3 focus-within:outline-2 hover:border-ink">
        <FileUp size={18} aria-hidden />
        {chosen ? 'Choose another file' : 'Choose a CSV file'}
        <input
          type="file"
          accept=".csv,text/csv,text/plain"
          className="sr-only"
          onChange={(event) => {
            void choose(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </label>
      {busy && <p className="mt-3 text-quiet">Reading…</p>}
      {problem !== undefined && (
        <div className="mt-4 max-w-2xl">
          <Notice kind="wrong" title={problem}>
            Nothing was imported.
          </Notice>
        </div>
      )}
      {chosen && (
        <>
          <div className="mt-5 flex flex-wrap items-center gap-x-8 gap-y-2" role="status">
            <h2 className="text-[18px]">{chosen.done ? `${chosen.name} is imported` : chosen.name}</h2>
            <Figure number={chosen.report.added} label={chosen.done ? 'added' : 'new'} />
            <Figure number={chosen.report.changed} label="changed" />
            <Figure number={chosen.report.unchanged} label="unchanged" />
            <Figure number={chosen.report.rejectedCount} label="left out" wrong />
            {chosen.done ? (
              <Link to="/people" className="underline">
                See the people
              </Link>
            ) : (
              <Button
                look="primary"
                disabled={busy || chosen.report.added + chosen.report.changed === 0}
                onClick={() => run(chosen.name, chosen.csv, false)}
              >
                Import {count(chosen.report.added + chosen.report.changed)} people
              </Button>
            )}
          </div>
          <div className="mt-4 grid grid-cols-[3fr_2fr] items-start gap-6">
            <Columns report={chosen.report} />
            <Rejected report={chosen.report} />
          </div>
        </>
      )}
    </div>
  );
}

function Figure({ number, label, wrong = false }: { number: number; label: string; wrong?: boolean }) {
  return (
    <span className={wrong && number > 0 ? 'text-apple' : ''}>
      <strong className="text-[18px]">{count(number)}</strong> {label}
    </span>
  );
}

function Columns({ report }: { report: ImportReport }) {
  const head = 'border-b border-line px-3 py-2 text-left font-medium';
  const cell = 'border-b border-line/60 px-3 py-1.5';
  return (
    <table className="w-full rounded-md border border-line bg-paper">
      <caption className="sr-only">Columns of the file</caption>
      <thead>
        <tr>
          {['Column', 'Becomes', 'Type', 'Blank', 'For example'].map((title) => (
            <th key={title} scope="col" className={head}>
              {title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {report.columns.map((column) => (
          <tr key={column.header}>
            <td className={`${cell} font-medium`}>{column.header}</td>
            <td className={cell}>
              {column.attribute}
              {column.isNew && <span className="ml-2 rounded bg-leaf-wash px-1.5 text-leaf">new</span>}
            </td>
            <td className={`${cell} text-quiet`}>
              {column.type === 'email' ? 'who it is' : typeWords[column.type]}
            </td>
            <td className={cell}>{count(column.missing)}</td>
            <td className={`${cell} max-w-52 truncate text-quiet`}>{column.examples.join(', ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Rejected({ report }: { report: ImportReport }) {
  if (report.rejectedCount === 0) return <p className="text-quiet">Every row can be imported.</p>;
  return (
    <div>
      <h3 className="text-[16px]">Rows left out</h3>
      <ul className="mt-1 max-h-[360px] overflow-y-auto rounded-md border border-line bg-paper">
        {report.rejected.map((row) => (
          <li key={row.row} className="border-b border-line/60 px-3 py-1.5 last:border-0">
            <span className="text-quiet">row {row.row}</span> {row.email && <strong>{row.email}</strong>}{' '}
            {row.reason}
          </li>
        ))}
      </ul>
      {report.rejectedCount > report.rejected.length && (
        <p className="mt-1 text-quiet">and {count(report.rejectedCount - report.rejected.length)} more</p>
      )}
    </div>
  );
}
