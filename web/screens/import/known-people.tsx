import type { ImportPlan } from '../../../core/exchange/plan.ts';

/** What happens to people who are known already. */
export function KnownPeople({ plan, onChange }: { plan: ImportPlan; onChange: (plan: ImportPlan) => void }) {
  const hasId = plan.columns.some(({ to }) => to.kind === 'external-id');
  return (
    <section aria-label="People who are known already" className="max-w-5xl">
      <h2 className="text-[18px]">People who are known already</h2>
      <div className="mt-2 grid grid-cols-1 wide:grid-cols-3 gap-6 rounded-md border border-line bg-paper px-4 py-3">
        <Choice
          legend="They are found by their"
          value={plan.matchBy}
          options={[
            ['email', 'email address', 'capital letters make no difference'],
            ['external-id', 'external ID', hasId ? '' : 'choose a column for it first'],
          ]}
          onChange={(matchBy) => onChange({ ...plan, matchBy })}
        />
        <Choice
          legend="What the file says"
          value={plan.known}
          options={[
            ['overwrite', 'replaces what is stored', ''],
            ['fill', 'only fills in what is missing', ''],
            ['leave', 'changes nothing about them', 'only new people come in'],
          ]}
          onChange={(known) => onChange({ ...plan, known })}
        />
        <Choice
          legend="A blank cell"
          value={plan.blank}
          options={[
            ['keep', 'keeps what is stored', ''],
            ['clear', 'takes the stored value away', ''],
          ]}
          onChange={(blank) => onChange({ ...plan, blank })}
        />
      </div>
    </section>
  );
}

function Choice<Value extends string>({
  legend,
  value,
  options,
  onChange,
}: {
  legend: string;
  value: Value;
  options: readonly (readonly [Value, string, string])[];
  onChange: (value: Value) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{legend}</legend>
      {options.map(([option, label, note]) => (
        <label key={option} className="flex items-baseline gap-2 py-0.5">
          <input
            type="radio"
            name={legend}
            className="accent-leaf"
            checked={value === option}
            onChange={() => onChange(option)}
          />
          <span>
            {label} {note !== '' && <span className="text-quiet">– {note}</span>}
          </span>
        </label>
      ))}
    </fieldset>
  );
}
