import type { CrmStatus, CrmSwitches } from '../../../contract/crm.ts';

/** The switches of the customer database that the demo ships: everything that goes wrong with such a service. */
export function StandIn({
  standIn: { address, switches },
  onChange,
}: {
  standIn: NonNullable<CrmStatus['standIn']>;
  onChange: (switches: CrmSwitches) => void;
}) {
  const box = 'h-8 w-20 rounded-md border border-edge/60 bg-paper px-2';
  const number = (key: 'slowMs' | 'failEvery' | 'limitEvery', label: string, most: number) => (
    <label className="flex items-center gap-2 py-1">
      <span className="flex-1">{label}</span>
      <input
        type="number"
        min={0}
        max={most}
        className={box}
        value={switches[key]}
        onChange={(event) =>
          onChange({
            ...switches,
            [key]: Math.max(0, Math.min(most, Math.floor(event.target.valueAsNumber || 0))),
          })
        }
      />
    </label>
  );
  const tick = (key: 'malformed' | 'duplicates', label: string) => (
    <label className="flex items-baseline gap-2 py-1">
      <input
        type="checkbox"
        className="accent-leaf"
        checked={switches[key]}
        onChange={(event) => onChange({ ...switches, [key]: event.target.checked })}
      />
      {label}
    </label>
  );
  return (
    <section aria-label="Demo CRM" className="rounded-md border border-line bg-paper px-5 py-4">
      <h2 className="text-[16px]">Demo CRM</h2>
      <p className="text-quiet">
        640 invented customers at {address}. Make it misbehave to see how the sync copes.
      </p>
      <div className="mt-2">
        {number('slowMs', 'Delay before each answer (ms)', 10_000)}
        {number('failEvery', 'Fail every nth request (0 = never)', 1000)}
        {number('limitEvery', 'Rate-limit every nth request (0 = never)', 1000)}
        {tick('malformed', 'Include broken records')}
        {tick('duplicates', 'Send some records twice')}
      </div>
    </section>
  );
}
