import { dequal } from 'dequal';
import { ChevronLeft, RefreshCw, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import {
  type CrmSettings,
  type CrmStatus,
  conflictRules,
  crmFieldsSchema,
  crmStatusSchema,
} from '../../../contract/crm.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { call, messageOf, useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { useCatalogue } from '../../data/data.ts';
import { saidInstant } from '../../data/moment.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Notice } from '../../parts/notice.tsx';
import { StandIn } from './stand-in.tsx';

const ruleWords: Record<CrmSettings['conflict'], string> = {
  newer: 'the later change',
  theirs: 'what the other system says',
  ours: 'what was changed here',
};
const intervals = [5, 15, 60, 360, 1440];

/** Keeping contacts in step with a customer database outside. */
export function Component() {
  const { data, mutate } = useApi('/crm', crmStatusSchema, {
    again: (latest) => (latest?.running ? 500 : 0),
  });
  const catalogue = useCatalogue();
  const [problem, setProblem] = useState<string>();
  const act = async (request: Promise<CrmStatus>) => {
    setProblem(undefined);
    try {
      await mutate(await request, { revalidate: false });
      return true;
    } catch (error) {
      setProblem(messageOf(error));
      return false;
    }
  };
  if (!data || !catalogue) return null;
  return (
    <div className="h-full overflow-y-auto px-7 py-5">
      <Link to="/people" className="inline-flex items-center gap-1 text-quiet hover:text-ink">
        <ChevronLeft size={15} aria-hidden /> All people
      </Link>
      <div className="mt-1 flex items-center gap-6">
        <h1 className="text-[26px] leading-8">Another system</h1>
        <p className="text-quiet">People from your customer database, kept in step with it</p>
      </div>
      {problem !== undefined && (
        <div className="mt-3 max-w-3xl">
          <Notice kind="wrong" title={problem} />
        </div>
      )}
      <LastSync
        status={data}
        onSync={() => act(call('POST', '/crm/sync', crmStatusSchema))}
        onStop={() => act(call('POST', '/crm/cancel', crmStatusSchema))}
      />
      <div className="mt-6 grid grid-cols-[3fr_2fr] items-start gap-8">
        <Settings
          key={JSON.stringify(data.settings)}
          stored={data.settings}
          catalogue={catalogue}
          onStore={async (settings) => {
            if (await act(call('PUT', '/crm', crmStatusSchema, settings)))
              toast.success('The connection is stored.');
          }}
          onProblem={setProblem}
        />
        {data.standIn && (
          <StandIn
            standIn={data.standIn}
            onChange={(switches) => {
              // A tick shows at once.
              if (data.standIn)
                void mutate({ ...data, standIn: { ...data.standIn, switches } }, { revalidate: false });
              void act(call('PUT', '/crm/stand-in', crmStatusSchema, switches));
            }}
          />
        )}
      </div>
    </div>
  );
}

function LastSync({
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
          ? 'The first sync reads everybody; after that only what changed over there.'
          : `Everything that changed over there up to ${saidInstant(upTo)} is here.`}
        {result && result.retries > 0 && ` Waited and asked again ${count(result.retries)} times.`}
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

function Settings({
  stored,
  catalogue,
  onStore,
  onProblem,
}: {
  stored: CrmSettings;
  catalogue: Catalogue;
  onStore: (settings: CrmSettings) => void;
  onProblem: (message: string) => void;
}) {
  const [draft, setDraft] = useState(stored);
  const [found, setFound] = useState<readonly string[]>([]);
  const attributes = catalogue.attributes.filter(({ source, id }) => source === 'contact' && id !== 'email');
  const fields = [...new Set([...found.filter((field) => field !== 'email'), ...Object.keys(draft.fields)])];
  const fetchFields = async () => {
    try {
      setFound((await call('GET', '/crm/fields', crmFieldsSchema)).fields);
    } catch (error) {
      onProblem(messageOf(error));
    }
  };
  const fill = (field: string, attribute: string) => {
    const { [field]: _, ...others } = draft.fields;
    setDraft({ ...draft, fields: attribute === '' ? others : { ...others, [field]: attribute } });
  };
  return (
    <form
      aria-label="Connection"
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        onStore(draft);
      }}
    >
      <h2 className="text-[18px]">Connection</h2>
      <div className="grid grid-cols-2 gap-4">
        <TextField
          label="Address"
          value={draft.address}
          onChange={(event) => setDraft({ ...draft, address: event.target.value })}
        />
        <TextField
          label="Key"
          type="password"
          autoComplete="off"
          value={draft.key}
          onChange={(event) => setDraft({ ...draft, key: event.target.value })}
        />
      </div>
      <table className="w-full rounded-md border border-line bg-paper">
        <thead>
          <tr>
            <th scope="col" className="border-b border-line px-3 py-2 text-left font-medium">
              Their field
            </th>
            <th scope="col" className="border-b border-line px-3 py-2 text-left font-medium">
              Fills
            </th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field}>
              <td className="border-b border-line/60 px-3 py-1.5 font-medium">{field}</td>
              <td className="border-b border-line/60 px-3 py-1.5">
                <select
                  aria-label={`What “${field}” fills`}
                  className="h-8 w-56 rounded-md border border-edge/60 bg-paper px-2"
                  value={draft.fields[field] ?? ''}
                  onChange={(event) => fill(field, event.target.value)}
                >
                  <option value="">left out</option>
                  {attributes.map(({ id, label }) => (
                    <option key={id} value={id}>
                      {label}
                    </option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div>
        <Button onClick={fetchFields}>Ask for their fields</Button>
      </div>
      <div className="grid grid-cols-2 gap-4">
        <fieldset>
          <legend className="mb-1 font-medium">Where both sides changed a value, what counts is</legend>
          {conflictRules.map((rule) => (
            <label key={rule} className="flex items-baseline gap-2 py-0.5">
              <input
                type="radio"
                name="conflict"
                className="accent-leaf"
                checked={draft.conflict === rule}
                onChange={() => setDraft({ ...draft, conflict: rule })}
              />
              {ruleWords[rule]}
            </label>
          ))}
        </fieldset>
        <label className="flex flex-col gap-1">
          <span className="font-medium">By itself</span>
          <select
            className="h-9 rounded-md border border-edge/60 bg-paper px-2"
            value={String(draft.everyMinutes ?? '')}
            onChange={(event) =>
              setDraft({
                ...draft,
                everyMinutes: event.target.value === '' ? null : Number(event.target.value),
              })
            }
          >
            <option value="">only when told to</option>
            {[...new Set([...intervals, ...(draft.everyMinutes ? [draft.everyMinutes] : [])])].map(
              (minutes) => (
                <option key={minutes} value={minutes}>
                  {minutes < 60
                    ? `every ${minutes} minutes`
                    : minutes === 60
                      ? 'every hour'
                      : `every ${minutes / 60} hours`}
                </option>
              ),
            )}
          </select>
        </label>
      </div>
      <div className="flex justify-end">
        <Button type="submit" look="primary" disabled={dequal(draft, stored)}>
          {dequal(draft, stored) ? 'Saved' : 'Save'}
        </Button>
      </div>
    </form>
  );
}
