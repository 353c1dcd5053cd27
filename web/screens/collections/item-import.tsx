import { useState } from 'react';
import {
  type ItemImportReport,
  itemImportReportSchema,
  type ListedCollection,
} from '../../../contract/collections.ts';
import { call, messageOf } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button } from '../../parts/button.tsx';
import { Dialog } from '../../parts/dialog.tsx';
import { Notice } from '../../parts/notice.tsx';
import { ScrollList } from '../../parts/scroll-list.tsx';
import { toast } from '../../parts/toast.tsx';

interface Chosen {
  kind: 'csv' | 'json';
  text: string;
  name: string;
}

/** Brings items in from a file: what would happen first, then doing it. */
export function ItemImport({
  collection,
  open,
  onClose,
}: {
  collection: ListedCollection;
  open: boolean;
  onClose: () => void;
}) {
  const [chosen, setChosen] = useState<Chosen>();
  const [report, setReport] = useState<ItemImportReport>();
  const [problem, setProblem] = useState<string>();
  const ask = async (file: Chosen, apply: boolean) => {
    setProblem(undefined);
    try {
      const found = await call('POST', `/collections/${collection.id}/import`, itemImportReportSchema, {
        kind: file.kind,
        text: file.text,
        apply,
      });
      setReport(found);
      if (!apply) return;
      toast.success(`${count(found.added)} added, ${count(found.changed)} changed.`);
      close();
    } catch (error) {
      setProblem(messageOf(error));
    }
  };
  const close = () => {
    setChosen(undefined);
    setReport(undefined);
    setProblem(undefined);
    onClose();
  };
  return (
    <Dialog
      open={open}
      onClose={close}
      title={`Import into ${collection.name}`}
      description={`CSV with a column “title”, or an array of JSON. Columns: address, title, teaser, from, until${collection.fields.map(({ attribute }) => `, ${attribute.label}`).join('')}. Items whose address is known are changed, others added.`}
    >
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-1 font-medium">
          File
          <input
            type="file"
            accept=".csv,.json,text/csv,application/json"
            onChange={async (event) => {
              const file = event.target.files?.[0];
              if (!file) return;
              const next: Chosen = {
                kind: file.name.toLowerCase().endsWith('.json') ? 'json' : 'csv',
                text: await file.text(),
                name: file.name,
              };
              setChosen(next);
              await ask(next, false);
            }}
          />
        </label>
        {problem !== undefined && <Notice kind="wrong" title={problem} />}
        {report && (
          <>
            <p role="status">
              <strong>{count(report.added)}</strong> would be added, <strong>{count(report.changed)}</strong>{' '}
              changed, {count(report.unchanged)} are as they are.
            </p>
            {report.problems.length > 0 && (
              <Notice kind="careful" title={`${count(report.problems.length)} to look at`}>
                <ScrollList className="max-h-48">
                  {report.problems.map(({ line, message }) => (
                    <li key={`${line} ${message}`}>
                      Line {line}: {message}
                    </li>
                  ))}
                </ScrollList>
              </Notice>
            )}
            <div className="flex justify-end gap-2">
              <Button look="quiet" onClick={close}>
                Cancel
              </Button>
              <Button
                look="primary"
                disabled={report.added + report.changed === 0}
                onClick={() => chosen && ask(chosen, true)}
              >
                Import
              </Button>
            </div>
          </>
        )}
      </div>
    </Dialog>
  );
}
