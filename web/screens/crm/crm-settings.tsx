import { dequal } from 'dequal';
import { useState } from 'react';
import { type CrmSettings, conflictRules, crmFieldsSchema } from '../../../contract/crm.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { call, messageOf } from '../../data/api.ts';
import { Button } from '../../parts/button.tsx';
import { TextField } from '../../parts/field.tsx';
import { Select } from '../../parts/select.tsx';
import { useUnsavedChanges } from '../../parts/unsaved-changes.tsx';

const ruleWords: Record<CrmSettings['conflict'], string> = {
  newer: 'the latest change',
  theirs: 'the CRM’s value',
  ours: 'the value here',
};
const intervals = [5, 15, 60, 360, 1440];

export function Settings({
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
  const unsaved = useUnsavedChanges(() => !dequal(draft, stored));
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
      {unsaved.question}
      <h2 className="text-[18px]">Connection</h2>
      <div className="grid grid-cols-1 wide:grid-cols-2 gap-4">
        <TextField
          label="URL"
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
              CRM field
            </th>
            <th scope="col" className="border-b border-line px-3 py-2 text-left font-medium">
              Attribute
            </th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field}>
              <td className="border-b border-line/60 px-3 py-1.5 font-medium">{field}</td>
              <td className="border-b border-line/60 px-3 py-1.5">
                <Select
                  aria-label={`Attribute for “${field}”`}
                  className="h-8 w-56"
                  value={draft.fields[field] ?? ''}
                  onChange={(id) => fill(field, id)}
                  options={[
                    { value: '', label: 'not synced' },
                    ...attributes.map(({ id, label }) => ({ value: id, label })),
                  ]}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div>
        <Button onClick={fetchFields}>Load CRM fields</Button>
      </div>
      <div className="grid grid-cols-1 wide:grid-cols-2 gap-4">
        <fieldset>
          <legend className="mb-1 font-medium">If both sides changed a value, keep</legend>
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
        <div className="flex flex-col gap-1">
          <span className="font-medium">Sync automatically</span>
          <Select
            aria-label="Sync automatically"
            value={String(draft.everyMinutes ?? '')}
            onChange={(minutes) =>
              setDraft({ ...draft, everyMinutes: minutes === '' ? null : Number(minutes) })
            }
            options={[
              { value: '', label: 'only manually' },
              ...[...new Set([...intervals, ...(draft.everyMinutes ? [draft.everyMinutes] : [])])].map(
                (minutes) => ({ value: String(minutes), label: sayInterval(minutes) }),
              ),
            ]}
          />
        </div>
      </div>
      <div className="flex justify-end">
        <Button type="submit" look="primary" disabled={dequal(draft, stored)}>
          {dequal(draft, stored) ? 'Saved' : 'Save'}
        </Button>
      </div>
    </form>
  );
}

function sayInterval(minutes: number): string {
  if (minutes < 60) return `every ${minutes} minutes`;
  return minutes === 60 ? 'every hour' : `every ${minutes / 60} hours`;
}
