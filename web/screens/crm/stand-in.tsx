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
    <section
      aria-label="The demo’s other system"
      className="rounded-md border border-line bg-paper px-5 py-4"
    >
      <h2 className="text-[16px]">The demo’s other system</h2>
      <p className="text-quiet">
        640 invented customers at {address}. Make it misbehave, and see that the sync copes.
      </p>
      <div className="mt-2">
        {number('slowMs', 'Milliseconds it waits before each answer', 10_000)}
        {number('failEvery', 'Fails at every so many-th request (0 for never)', 1000)}
        {number('limitEvery', 'Asks for patience at every so many-th (0 for never)', 1000)}
        {tick('malformed', 'sends broken records among the good ones')}
        {tick('duplicates', 'sends some records twice')}
      </div>
    </section>
  );
}
