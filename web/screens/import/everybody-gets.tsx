import { Plus, X } from 'lucide-react';
import { useId, useState } from 'react';
import { choicesOf } from '../../../core/attributes/attribute.ts';
import type { Catalogue } from '../../../core/attributes/catalogue.ts';
import { isOfTags } from '../../../core/attributes/of-tags.ts';
import type { ImportPlan } from '../../../core/exchange/plan.ts';
import { Button, IconButton } from '../../parts/button.tsx';
import { Select } from '../../parts/select.tsx';

const box = 'h-9 rounded-md border border-edge/60 bg-paper px-2';

/** A list or a tag that everybody in the file is put on, whatever else the file says of them. */
export function EverybodyGets({
  plan,
  catalogue,
  onChange,
}: {
  plan: ImportPlan;
  catalogue: Catalogue;
  onChange: (plan: ImportPlan) => void;
}) {
  const sets = catalogue.attributes.filter(({ source, type }) => source === 'contact' && type === 'set');
  const [chosen, setChosen] = useState((sets.find(isOfTags) ?? sets[0])?.id ?? '');
  const [label, setLabel] = useState('');
  const known = useId();
  const attribute = catalogue.get(chosen);
  if (sets.length === 0) return null;
  const typed = label.trim();
  const isThere = plan.given.some((one) => one.attribute === chosen && one.label === typed);
  const isNew = attribute && typed !== '' && !choicesOf(attribute).some((choice) => choice.label === typed);
  return (
    <section aria-label="Add everyone to" className="max-w-5xl">
      <h2 className="text-[18px]">Add everyone in this file to a list or tag</h2>
      <div className="mt-2 rounded-md border border-line bg-paper px-4 py-3">
        {plan.given.length > 0 && (
          <ul className="mb-3 flex flex-wrap gap-2">
            {plan.given.map((one) => (
              <li
                key={`${one.attribute} ${one.label}`}
                className="inline-flex items-center gap-1 rounded-md border border-line pl-3 pr-1"
              >
                {catalogue.get(one.attribute)?.label ?? one.attribute}: <strong>{one.label}</strong>
                <IconButton
                  label={`Remove ${one.label}`}
                  onClick={() => onChange({ ...plan, given: plan.given.filter((other) => other !== one) })}
                >
                  <X size={14} />
                </IconButton>
              </li>
            ))}
          </ul>
        )}
        <form
          className="flex flex-wrap items-center gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (typed === '' || isThere) return;
            onChange({ ...plan, given: [...plan.given, { attribute: chosen, label: typed }] });
            setLabel('');
          }}
        >
          <Select
            aria-label="List or tag attribute"
            value={chosen}
            onChange={setChosen}
            options={sets.map((set) => ({ value: set.id, label: set.label }))}
          />
          <input
            aria-label="List or tag"
            className={`${box} w-64`}
            list={known}
            value={label}
            maxLength={120}
            placeholder="choose one, or type a new name"
            onChange={(event) => setLabel(event.target.value)}
          />
          <datalist id={known}>
            {attribute &&
              choicesOf(attribute).map((choice) => <option key={choice.id} value={choice.label} />)}
          </datalist>
          <Button type="submit" icon={<Plus size={15} aria-hidden />} disabled={typed === '' || isThere}>
            Add
          </Button>
          {isNew && <span className="text-quiet">“{typed}” is new; it is made with the import.</span>}
        </form>
      </div>
    </section>
  );
}
