import { RefreshCw, X } from 'lucide-react';
import type { CrmStatus } from '../../../contract/crm.ts';
import { count } from '../../data/count.ts';
import { saidInstant } from '../../data/moment.ts';
import { Button } from '../../parts/button.tsx';
import { Notice } from '../../parts/notice.tsx';

export function LastSync({
  status: { running, result, upTo },
  onSync,
  onStop,
}: {
  status: CrmStatus;
  onSync: () => void;
  onStop: () => void;
}) {
  const figures = result
    ? ([
        ['added', result.added],
        ['changed', result.changed],
        ['unchanged', result.unchanged],
        ['kept as changed here', result.kept],
        ['skipped', result.skipped],
      ] as const)
    : [];
  return (
    <section aria-label="Last sync" className="mt-4 rounded-md border border-line bg-paper px-5 py-4">
      <div className="flex flex-wrap items-center gap-x-8 gap-y-2" role="status">
        <h2 className="text-[18px]">
          {running
            ? 'Syncing…'
            : result
              ? `Last sync ${saidInstant(result.finishedAt ?? result.startedAt)}`
              : 'Never synced yet'}
        </h2>
        {figures.map(([label, number]) => (
          <span key={label} className={label === 'skipped' && number > 0 ? 'text-apple' : ''}>
            <strong className="text-[20px]">{count(number)}</strong> {label}
          </span>
        ))}
        <span className="ml-auto flex gap-3">
          {running && (
            <Button icon={<X size={15} aria-hidden />} onClick={onStop}>
              Stop
            </Button>
          )}
          <Button
            look="primary"
            disabled={running}
            icon={<RefreshCw size={15} aria-hidden />}
            onClick={onSync}
          >
            Sync now
          </Button>
        </span>
      </div>
      <p className="mt-1 text-quiet">
        {upTo === null
          ? 'The first sync reads everybody; after that only what changed in the CRM.'
          : `Everything that changed in the CRM up to ${saidInstant(upTo)} is here.`}
        {result && result.retries > 0 && ` Retried ${count(result.retries)} times.`}
      </p>
      {result?.error && (
        <div className="mt-2">
          <Notice kind="wrong" title={result.error} />
        </div>
      )}
      {result && result.reasons.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer underline">Why records were skipped</summary>
          <ul className="mt-1">
            {result.reasons.map(({ id, reason }, index) => (
              <li key={`${id} ${String(index)}`}>
                <span className="text-quiet">record {id || 'without an id'}</span> {reason}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
